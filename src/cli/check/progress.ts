import { SingleBar } from 'cli-progress';

/** Tells how far a long run is, on a terminal only. */
export interface Progress {
  read(bytes: number): void;
  judged(rows: number): void;
  end(): void;
}

const QUIET: Progress = { read: () => undefined, judged: () => undefined, end: () => undefined };

/** Milliseconds before anything is shown: what is done sooner needs no bar. */
const PATIENCE = 1000;

/**
 * @param total bytes to read; `undefined` where that is not known, as with a pipe
 * @param isShown there is a person to see it, and nothing else written in between
 */
export function progressOf(total: number | undefined, isShown: boolean): Progress {
  if (!isShown) return QUIET;
  const begun = Date.now();
  let [bytes, rows] = [0, 0];
  let bar: SingleBar | undefined;
  const rate = () => Math.round((rows * 1000) / Math.max(1, Date.now() - begun)).toLocaleString('en');
  return {
    read(more) {
      bytes += more;
      if (!bar && Date.now() - begun > PATIENCE) {
        const format =
          total === undefined
            ? '{rows} submissions, {rate} a second'
            : '{bar} {percentage} %, {rows} submissions, {rate} a second, {eta_formatted} left';
        bar = new SingleBar({
          format,
          stream: process.stderr,
          clearOnComplete: true,
          barCompleteChar: '━',
          barIncompleteChar: '─',
          barsize: 24,
          etaBuffer: 200,
        });
        bar.start(total ?? 1, 0, { rows: 0, rate: '0' });
      }
      bar?.update(bytes, { rows: rows.toLocaleString('en'), rate: rate() });
    },
    judged(more) {
      rows += more;
    },
    end: () => bar?.stop(),
  };
}
