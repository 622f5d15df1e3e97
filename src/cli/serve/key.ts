import { randomBytes, timingSafeEqual } from 'node:crypto';

/** Bytes of a key: nobody finds it by trying. */
const BYTES = 24;

/**
 * What only who has started the workbench knows. Whoever else is on the machine reaches the port too, and must not let modules run, or read
 * what is stored, as its owner.
 */
export class Key {
  /** Opens the page; it stands in the printed address, and is then kept in a cookie of the session. */
  readonly page = randomBytes(BYTES).toString('base64url');
  /** Opens the door before the intakes alone, since it stands in commands that are copied. */
  readonly door = randomBytes(BYTES).toString('base64url');
}

export function isKey(told: string | undefined, key: string): boolean {
  if (told === undefined) return false;
  const [one, other] = [Buffer.from(told), Buffer.from(key)];
  return one.length === other.length && timingSafeEqual(one, other);
}
