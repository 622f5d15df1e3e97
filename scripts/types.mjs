// Type checks everything with one of the two compilers: node scripts/types.mjs typescript|typescript6
import { program, run } from './setup.mjs';

const compiler = program(`${process.argv[2] ?? 'typescript'}/bin/tsc`);
for (const project of ['tsconfig.core.json', 'tsconfig.json', 'examples/tsconfig.json', 'test/tsconfig.json'])
  run('node', [compiler, '-p', project]);
