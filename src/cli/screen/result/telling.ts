import { SingleBar } from 'cli-progress';
import type { JobFolder, Manifest } from '../folder/job.ts';
import type { Progress } from '../work/coordinate.ts';
import { pageOf } from './page.ts';

/** Milliseconds between two versions of the page. */
const PAUSE = 1500;

/** Tells how far a screening is: on a terminal as a bar, and as a page in its folder. */
export class Teller {
  readonly #folder: JobFolder;
  readonly #manifest: Manifest;
  readonly #isTerminal: boolean;
  readonly #writesPage: boolean;
  readonly #begun = Date.now();
  #first: Progress | undefined;
  #last: Progress | undefined;
  #bar: SingleBar | undefined;
  #written = 0;

  /** @param options whoever only watches leaves the page to who sees the screening through */
  constructor(
    folder: JobFolder,
    manifest: Manifest,
    { isTerminal, writesPage }: { readonly isTerminal: boolean; readonly writesPage: boolean },
  ) {
    this.#folder = folder;
    this.#manifest = manifest;
    this.#isTerminal = isTerminal;
    this.#writesPage = writesPage;
  }

  tell(progress: Progress): void {
    if (this.#last?.pass !== progress.pass) this.#first = progress;
    this.#last = progress;
    const { rate, left } = this.#pace(progress);
    if (this.#isTerminal) {
      this.#bar ??= this.#makeBar();
      if (this.#bar.getTotal() !== progress.ranges) this.#bar.setTotal(progress.ranges);
      const what = progress.pass;
      this.#bar.update(progress.done, { rows: progress.rows.toLocaleString('en'), rate: rate.toLocaleString('en'), left, what });
    }
    if (Date.now() - this.#written < PAUSE) return;
    this.#written = Date.now();
    this.#write({ state: 'running', progress, rate, left });
  }

  stopped(why: string): void {
    this.#bar?.stop();
    const progress = this.#last ?? { pass: 'judging' as const, ranges: this.#manifest.ranges, done: 0, rows: 0 };
    this.#write({ state: 'stopped', progress, why });
  }

  end(): void {
    this.#bar?.stop();
  }

  /** Rows a second since this began, and the time that is left at that pace. */
  #pace({ rows, ranges, done }: Progress): { readonly rate: number; readonly left: string } {
    const seconds = Math.max(0.001, (Date.now() - this.#begun) / 1000);
    const since = rows - (this.#first?.rows ?? 0);
    const doneSince = done - (this.#first?.done ?? 0);
    const rate = Math.round(since / seconds);
    return { rate, left: doneSince === 0 ? 'some time' : durationOf(((ranges - done) * seconds) / doneSince) };
  }

  #write(shown: Parameters<typeof pageOf>[2]): void {
    if (!this.#writesPage) return;
    try {
      if (shown.state === 'running') this.#folder.putProgress(shown.progress);
      this.#folder.put('index.html', pageOf(this.#folder.path, this.#manifest, shown));
    } catch {
      // A page that cannot be written is no reason to stop.
    }
  }

  #makeBar(): SingleBar {
    const bar = new SingleBar({
      format: '{what} {bar} {percentage} %, {rows} rows, {rate} a second, {left} left',
      stream: process.stderr,
      clearOnComplete: true,
      barCompleteChar: '━',
      barIncompleteChar: '─',
      barsize: 24,
    });
    bar.start(this.#manifest.ranges, 0, { rows: 0, rate: '0', left: '', what: 'judging' });
    return bar;
  }
}

function durationOf(seconds: number): string {
  const whole = Math.round(seconds);
  if (whole < 60) return `${whole} s`;
  return whole < 3600
    ? `${Math.floor(whole / 60)} min ${whole % 60} s`
    : `${Math.floor(whole / 3600)} h ${Math.round((whole % 3600) / 60)} min`;
}
