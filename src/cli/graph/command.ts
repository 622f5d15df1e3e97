import { type Command, Option } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, intakeFlag, MISUSE, MODULE, moreHelp } from '../basics/flags.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';

interface GraphFlags {
  readonly intake?: string;
  readonly format: 'mermaid' | 'dot' | 'svg';
  readonly out?: string;
}

export function graphCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = intakeFlag(
    program.command('graph').description('Draw what reads what: fields, rules and collections of one intake.').argument('<module>', MODULE),
  )
    .addOption(
      new Option('--format <format>', 'a language for drawings, or the drawing').choices(['mermaid', 'dot', 'svg']).default('mermaid'),
    )
    .option('--out <file>', 'where it goes (default: standard output)');
  moreHelp(command, 'jestril graph examples/marina/index.ts --intake berth-booking --format svg --out booking.svg', [
    [0, 'drawn'],
    MISUSE,
    FAILED,
  ]).action((module: string, { intake, format, out }: GraphFlags) =>
    run(async () => {
      const [{ loadIntake }, { asDot, asSvg }, { asMermaid }, { graphOf }, { writeOut }] = await Promise.all([
        import('../basics/loading.ts'),
        import('../../describe/drawing.ts'),
        import('../../core/plan/graph.ts'),
        import('../../core/beside.ts'),
        import('../basics/write-out.ts'),
      ]);
      const graph = graphOf(await loadIntake(module, intake));
      await writeOut(format === 'mermaid' ? asMermaid(graph) : format === 'dot' ? asDot(graph) : `${asSvg(graph)}\n`, out, context);
      return EXIT.accepted;
    }),
  );
}
