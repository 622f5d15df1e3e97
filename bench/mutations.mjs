// node bench/mutations.mjs: what share of small changes to the marina's rules its proof notices (after npm run build).
// One change at a time: a comparison swapped, a negation dropped, a value rule or a bound rule left out.
import { spawnSync } from 'node:child_process';
import { cpSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

const from = 'examples/marina';
const copy = 'examples/.mutant';
/** The exit code of a proof that found a problem. */
const PROBLEM = 9;
const runner = `import { prove } from 'jestril/proof';
import { proofs } from './proof.ts';
const found = await Promise.all(proofs.map(prove));
process.exit(found.every(({ isProven }) => isProven) ? 0 : ${PROBLEM});`;

const SWAPS = [
  [/ <= /g, ' < '],
  [/ >= /g, ' > '],
  [/ < (?=[\w('])/g, ' <= '],
  [/ > (?=[\w('])/g, ' >= '],
  [/ === /g, ' !== '],
  [/ && /g, ' || '],
  [/!(?=taken)/g, ''],
  [/\babove\('/g, "notBelow('"],
  [/\bbelow\('/g, "notAbove('"],
  [/\.some\(/g, '.every('],
];
// A value rule in a field's list, and a rule among those of an intake or group.
const RULES = [
  /, (?:length|pattern|between|places|notBefore|isTrue|email|phone|yearsOld|without|above|atLeast)\((?:[^()]|\([^()]*\))*\)/g,
  /^ +(?:inOrder|stayOf|same|fitsBerth|berthFree|insuredUntil|needed|oneAdult|unique|known|slender|totalAtMost|atLeastOneOf)\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\),?$/gm,
  /(?<=rules: \[)(?:slender|unique|totalAtMost|known)\((?:[^()]|\([^()]*\))*\)(?:, )?/g,
];

function mutantsOf(text) {
  const code = text.slice(text.search(/^export const/m));
  const start = text.length - code.length;
  const places = [];
  const body = code.replace(/message: \{[\s\S]*?\n {4}\},|samples: \{[\s\S]*?\n {4}\},/g, (part) => ' '.repeat(part.length));
  for (const [pattern, replacement] of SWAPS)
    for (const match of body.matchAll(pattern)) places.push([start + match.index, match[0], replacement]);
  for (const pattern of RULES) for (const match of body.matchAll(pattern)) places.push([start + match.index, match[0], '']);
  return places.map(([at, old, now]) => ({
    text: imported(text.slice(0, at) + now + text.slice(at + old.length), now),
    what: `${old.trim()} -> ${now.trim() || '(left out)'}`,
  }));
}

/** A swapped comparison of a look-up has to be imported too. */
function imported(text, now) {
  const name = /^(notAbove|notBelow)/.exec(now)?.[1];
  return name ? text.replace('import { ', `import { ${name}, `) : text;
}

function prove() {
  return spawnSync('node', ['node_modules/jiti/lib/jiti-cli.mjs', join(copy, 'run.ts')], { encoding: 'utf8' }).status;
}

rmSync(copy, { recursive: true, force: true });
try {
  cpSync(from, copy, { recursive: true });
  writeFileSync(join(copy, 'run.ts'), runner);
  if (prove() !== 0) throw new Error('The proof does not hold without any change.');
  let noticed = 0;
  let all = 0;
  for (const folder of ['rules', 'intakes']) {
    for (const file of readdirSync(join(from, folder))) {
      const text = readFileSync(join(from, folder, file), 'utf8');
      for (const mutant of mutantsOf(text)) {
        writeFileSync(join(copy, folder, file), mutant.text);
        const status = prove();
        // A change that does not even load says nothing about the proof.
        if (status !== 0 && status !== PROBLEM) {
          console.log(`does not load: ${folder}/${file}: ${mutant.what}`);
          continue;
        }
        all++;
        if (status === PROBLEM) noticed++;
        else console.log(`not noticed: ${folder}/${file}: ${mutant.what}`);
      }
      writeFileSync(join(copy, folder, file), text);
    }
  }
  console.log(`${noticed} of ${all} changes noticed (${Math.round((100 * noticed) / all)} %)`);
} finally {
  rmSync(copy, { recursive: true, force: true });
}
