import { resolve } from 'node:path';
import type { Context } from '../basics/context.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';
import { JobFolder } from './folder/job.ts';
import { isOver } from './join.ts';
import { Teller } from './result/telling.ts';
import type { Progress } from './work/coordinate.ts';

/** Milliseconds between two looks. */
const PAUSE = 500;

/** Tells how far a screening is, until it is over; on no terminal only once. */
export async function watchScreening(to: string, context: Context): Promise<Exit> {
  const folder = new JobFolder(resolve(to));
  const manifest = folder.manifest();
  const isTerminal = process.stderr.isTTY === true;
  const teller = new Teller(folder, manifest, { isTerminal, writesPage: false });
  while (!isOver(folder)) {
    const progress = (folder.progress() ?? { pass: 'judging', ranges: manifest.ranges, done: 0, rows: 0 }) as Progress;
    if (!isTerminal) {
      const { pass, ranges, done, rows } = progress;
      const what = pass === 'judging' ? 'judged' : 'settled';
      await context.out(
        `${done} of ${ranges} ranges ${what}, ${rows.toLocaleString('en')} of ${manifest.rows.toLocaleString('en')} rows.\n`,
      );
      return EXIT.undecided;
    }
    teller.tell(progress);
    await new Promise((resume) => setTimeout(resume, PAUSE));
  }
  teller.end();
  await context.out(folder.has('ended') ? 'It was ended before its time.\n' : `It is done; ${to}/index.html shows what was found.\n`);
  return EXIT.accepted;
}
