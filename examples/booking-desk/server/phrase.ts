import { randomBytes, scrypt } from 'node:crypto';
import { promisify } from 'node:util';

const derive = promisify(scrypt) as (phrase: string, salt: string, length: number) => Promise<Buffer>;

/** A passphrase as it is stored: salt and derived key. */
export async function hashOf(phrase: string): Promise<string> {
  const salt = randomBytes(16).toString('hex');
  return `${salt}:${(await derive(phrase, salt, 32)).toString('hex')}`;
}
