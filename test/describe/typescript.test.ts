import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { typeScriptOf } from 'jestril/describe';
import * as marina from '../../examples/marina/index.ts';
import { Maker } from '../../src/made/index.ts';

// What is made to be accepted is of the type that is declared of what is sent, and its value of that of what is accepted.
test('the types of the marina compile, and what is made is of them', async () => {
  const parts: string[] = [];
  for (const made of [marina.berthBooking, marina.vesselRegistration, marina.ownerSignUp, marina.powerOrder] as {
    readonly name: string;
  }[]) {
    const accepted = await new Maker(made, { now: new Date('2031-04-20T08:00:00Z') }).accepted();
    const name = made.name.replaceAll(/(^|-)([a-z])/g, (_all, _dash, letter: string) => letter.toUpperCase());
    const value = (accepted?.verdict as { readonly value?: unknown } | undefined)?.value;
    parts.push(
      typeScriptOf(made),
      `export const sent${name}: ${name}Submission = ${JSON.stringify(accepted?.situation.submission)};`,
      `export const kept${name}: ${name} = ${JSON.stringify(value)};`,
    );
    parts.push(`// @ts-expect-error a member that is not there\nexport const bad${name}: ${name} = {};`);
  }
  const folder = mkdtempSync('test/typed-');
  try {
    writeFileSync(join(folder, 'types.ts'), parts.join('\n'));
    const compiler = [
      'node_modules/typescript/bin/tsc',
      '--noEmit',
      '--strict',
      '--exactOptionalPropertyTypes',
      '--target',
      'es2022',
      '--ignoreConfig',
    ];
    expect(spawnSync('node', [...compiler, join(folder, 'types.ts')], { encoding: 'utf8' }).stdout).toBe('');
  } finally {
    rmSync(folder, { recursive: true });
  }
});
