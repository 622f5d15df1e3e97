import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { createJiti } from 'jiti';
import { Fault } from '../core/fault.ts';
import { type Intake, isIntake } from '../core/intake.ts';
import type { Fields } from '../core/kinds/field.ts';
import { Misuse } from './misuse.ts';

export type LoadedIntake = Intake<Fields>;

/** Loads the module, TypeScript or JavaScript, without a build step, and picks the intake of that name. */
export async function loadIntake(path: string, wanted: string | undefined): Promise<LoadedIntake> {
  const intakes = await intakesOf(path);
  const names = [...intakes.values()].map(({ name }) => name);
  if (intakes.size === 0)
    throw new Misuse(`${path} exports no intake; export one, such as: export const booking = intake('booking', { … }).`);
  if (wanted === undefined) {
    if (intakes.size > 1) throw new Misuse(`${path} exports several intakes; choose one with --intake: ${names.join(', ')}.`);
    return [...intakes.values()][0] as LoadedIntake;
  }
  const chosen = [...intakes].find(([exported, { name }]) => name === wanted || exported === wanted);
  if (!chosen) throw new Misuse(`${path} exports no intake named "${wanted}"; there are: ${names.join(', ')}.`);
  return chosen[1];
}

async function intakesOf(path: string): Promise<Map<string, LoadedIntake>> {
  const file = resolve(path);
  if (!existsSync(file)) throw new Misuse(`There is no module ${path}.`);
  const exported = await importModule(file, path);
  // The same intake exported under two names is one intake.
  const seen = new Set<unknown>();
  return new Map(
    Object.entries(exported).filter((entry): entry is [string, LoadedIntake] => {
      if (!isIntake(entry[1]) || seen.has(entry[1])) return false;
      seen.add(entry[1]);
      return true;
    }),
  );
}

async function importModule(file: string, path: string): Promise<object> {
  try {
    const jiti = createJiti(import.meta.url, { interopDefault: false });
    return await jiti.import<object>(file);
  } catch (cause) {
    const { name, message } = cause as Error;
    const what = name === Fault.name ? 'does not describe an intake' : 'does not load';
    throw new Misuse(`${path} ${what}: ${firstLine(message)}`);
  }
}

function firstLine(message: string): string {
  return (message.split('\n')[0] as string).trim();
}

/** The names of the given fields, which the caller has to supply. */
export function givenNames(intake: LoadedIntake): string[] {
  return intake.graph().fields.flatMap(({ path, isGiven }) => (isGiven && !path.includes('.') ? [path] : []));
}
