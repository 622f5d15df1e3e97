// npm run mutate: changes the sources one place at a time, at random, and tells which changes no test of their room notices.
//   npm run mutate -- --changes 300 --seed 7 --room src/core
// It works on a copy beside the sources, takes hours for hundreds of changes, and is run by hand. What survives is told with its place:
// either it changes nothing that anybody could see, or a test is missing.
import { spawn } from 'node:child_process';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import ts from 'typescript6';
import { build, install, root } from './setup.mjs';

/** Rooms, and the tests that have to notice what changes there, the quick ones first. */
const ROOMS = {
  'src/core': ['test/core'],
  'src/records': ['test/records', 'test/core/stored.test.ts'],
  'src/http/receive': ['test/http'],
};
/** A change that runs on for so long is noticed, too. */
const LONGEST = 300_000;

const SWAPPED = {
  '<': '<=',
  '<=': '<',
  '>': '>=',
  '>=': '>',
  '===': '!==',
  '!==': '===',
  '&&': '||',
  '||': '&&',
  '??': '&&',
  '+': '-',
  '-': '+',
  '*': '+',
};

const { values } = parseArgs({
  options: {
    changes: { type: 'string', default: '300' },
    seed: { type: 'string', default: '1' },
    room: { type: 'string', multiple: true, default: Object.keys(ROOMS) },
    list: { type: 'boolean', default: false },
  },
});
const random = randomFrom(Number(values.seed));
const places = values.room.flatMap((room) => placesIn(room));
const chosen = Array.from({ length: Math.min(Number(values.changes), places.length) }, () => places.splice(random(places.length), 1)[0]);
console.log(`${chosen.length} of ${chosen.length + places.length} places, seed ${values.seed}`);
if (values.list) for (const change of chosen) console.log(toldOf(change));
else await tryAll();

async function tryAll() {
  install();
  build();
  const copy = mkdtempSync(join(tmpdir(), 'jestril-mutate-'));
  for (const name of [
    'src',
    'test',
    'examples',
    'bench',
    'docs',
    'scripts',
    'bin',
    'dist',
    'package.json',
    'tsconfig.json',
    'jest.config.mjs',
  ])
    cpSync(join(root, name), join(copy, name), { recursive: true, filter: (path) => !path.includes('node_modules') });
  symlinkSync(join(root, 'node_modules'), join(copy, 'node_modules'));
  const survivors = [];
  try {
    for (const [at, change] of chosen.entries()) {
      const path = join(copy, change.file);
      const source = readFileSync(path, 'utf8');
      writeFileSync(path, `${source.slice(0, change.from)}${change.by}${source.slice(change.to)}`);
      const isNoticed = await fails(copy, ROOMS[change.room]);
      writeFileSync(path, source);
      if (!isNoticed) survivors.push(change);
      console.log(`${at + 1}/${chosen.length} ${isNoticed ? 'noticed  ' : 'UNNOTICED'} ${toldOf(change)}`);
    }
  } finally {
    rmSync(copy, { recursive: true, force: true });
  }
  console.log(`\n${chosen.length - survivors.length} of ${chosen.length} changes are noticed. Unnoticed:`);
  for (const change of survivors) console.log(toldOf(change));
}

function fails(copy, tests) {
  return new Promise((resolve) => {
    const args = [
      '--experimental-vm-modules',
      '--no-warnings',
      'node_modules/jest/bin/jest.js',
      '--bail',
      '--silent',
      '--maxWorkers=1',
      ...tests,
    ];
    const run = spawn('node', [...args, '--testPathIgnorePatterns', 'types', 'boundaries', 'patterns'], {
      cwd: copy,
      stdio: 'ignore',
      detached: true,
      env: { ...process.env, JESTRIL_RANDOM: process.env.JESTRIL_RANDOM ?? '60' },
    });
    const end = setTimeout(() => process.kill(-run.pid, 'SIGKILL'), LONGEST);
    run.on('exit', (code) => {
      clearTimeout(end);
      resolve(code !== 0);
    });
  });
}

function toldOf({ file, line, before, by }) {
  return `${file}:${line}: ${JSON.stringify(before)} becomes ${JSON.stringify(by)}`;
}

/** All places of a room that can be changed, each in one way. */
function placesIn(room) {
  const files = readdirSync(join(root, room), { recursive: true, encoding: 'utf8' }).filter((file) => /(?<!\.d)\.ts$/.test(file));
  return files.flatMap((name) => {
    const file = join(room, name);
    const text = readFileSync(join(root, file), 'utf8');
    const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
    const found = [];
    const add = (node, by) => {
      const from = node.getStart(source);
      const before = text.slice(from, node.end);
      const line = source.getLineAndCharacterOfPosition(from).line + 1;
      found.push({ room, file, line, from, to: node.end, before: before.length > 60 ? `${before.slice(0, 60)}…` : before, by });
    };
    const visit = (node) => {
      if (ts.isTypeNode(node) || ts.isInterfaceDeclaration(node) || ts.isTypeAliasDeclaration(node) || ts.isImportDeclaration(node)) return;
      // The condition of an if the other way round.
      if (ts.isIfStatement(node)) add(node.expression, `!(${node.expression.getText(source)})`);
      for (const by of otherwise(node, source)) add(node, by);
      ts.forEachChild(node, visit);
    };
    visit(source);
    return found;
  });
}

/** What could stand in the place of a node. */
function otherwise(node, source) {
  const text = (each) => each.getText(source);
  if (ts.isBinaryExpression(node)) {
    const operator = text(node.operatorToken);
    const isJoined = operator === '+' && /['"`]/.test(text(node));
    return SWAPPED[operator] && !isJoined ? [`${text(node.left)} ${SWAPPED[operator]} ${text(node.right)}`] : [];
  }
  if (ts.isConditionalExpression(node)) return [`${text(node.condition)} ? ${text(node.whenFalse)} : ${text(node.whenTrue)}`];
  if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken) return [text(node.operand)];
  if (node.kind === ts.SyntaxKind.TrueKeyword) return ['false'];
  if (node.kind === ts.SyntaxKind.FalseKeyword) return ['true'];
  if (ts.isNumericLiteral(node)) return [String(Number(text(node).replaceAll('_', '')) + 1)];
  // A statement that is not made.
  if (ts.isExpressionStatement(node) && (ts.isCallExpression(node.expression) || ts.isBinaryExpression(node.expression))) return [';'];
  if (ts.isIfStatement(node.parent ?? node) && node.parent?.thenStatement === node && !ts.isBlock(node)) return [';'];
  return [];
}

/** Numbers below a limit that a seed repeats (mulberry32). */
function randomFrom(seed) {
  let state = seed >>> 0;
  return (below) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) % below;
  };
}
