import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

// good.ts and good examples are compiled by `npm run check`; here, both compilers have to refuse bad.ts, at the right words.
const lines = readFileSync('test/types/bad.ts', 'utf8').split('\n');
const marks = lines.flatMap((line, index) => {
  const word = /\/\/ wrong: (.+?) \|/.exec(line)?.[1];
  return word ? [{ line: index + 2, word }] : [];
});

test.each(['typescript', 'typescript6'])(
  '%s refuses what is wrong, at the word',
  (compiler) => {
    const { stdout } = spawnSync('node', [`node_modules/${compiler}/bin/tsc`, '-p', 'test/types/tsconfig.bad.json', '--pretty', 'false'], {
      encoding: 'utf8',
    });
    const errors = [...stdout.matchAll(/^test\/types\/bad\.ts\((\d+),(\d+)\): error (.*)$/gm)].map(([, line, column]) => ({
      line: Number(line),
      rest: lines[Number(line) - 1]?.slice(Number(column) - 1) ?? '',
    }));
    expect(errors.map(({ line }) => line)).toEqual(marks.map(({ line }) => line));
    for (const [index, { word }] of marks.entries()) expect(errors[index]?.rest.slice(0, word.length)).toBe(word);
  },
  120_000,
);
