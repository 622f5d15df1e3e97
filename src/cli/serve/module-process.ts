import { type ChildProcess, fork } from 'node:child_process';
import { join } from 'node:path';
import type { Told } from '../../workbench/wire/asked.ts';
import type { Calls } from '../../workbench/wire/calls.ts';
import { packageRoot } from '../basics/loading.ts';
import type { Call, Loaded, Loading, Reply } from './bench/messages.ts';

/** Milliseconds that a judgement may take, and that what goes through all of a module may. */
const MOST_TIME = 8000;
const MOST_WHOLE = 40_000;
const WHOLE: readonly (keyof Calls)[] = ['describe', 'cases', 'rows', 'alike'];

/** The process has ended, and not through this question: the next one answers it. */
export const GONE = Symbol('gone');

interface Waiting {
  readonly tell: (told: Told<unknown> | typeof GONE) => void;
  readonly timer: NodeJS.Timeout;
}

/** One load of a module, in a process of its own. */
export class ModuleProcess {
  /** What has come of loading; `GONE` where it was ended before. */
  readonly loaded: Promise<Loaded | typeof GONE>;
  readonly #child: ChildProcess;
  #settleLoad!: (loaded: Loaded | typeof GONE) => void;
  #state: 'loading' | 'loaded' | 'failed' | 'ended' = 'loading';
  #count = 0;
  readonly #waiting = new Map<number, Waiting>();

  constructor(loading: Loading) {
    this.loaded = new Promise((resolve) => {
      this.#settleLoad = resolve;
    });
    const { path } = loading;
    this.#child = fork(join(packageRoot(), 'dist/node/cli/serve/bench/process.js'), [JSON.stringify(loading)], {
      // What the module writes is for the terminal.
      stdio: ['ignore', process.stderr, process.stderr, 'ipc'],
    });
    const timer = setTimeout(
      () => this.#failed(`${path} does not end loading: it took longer than ${MOST_WHOLE / 1000} seconds.`),
      MOST_WHOLE,
    );
    void this.loaded.then(() => clearTimeout(timer));
    this.#child.on('message', (message: Reply | Loaded) => {
      if ('id' in message) return this.#settle(message.id, 'result' in message ? message.result : { problem: message.problem });
      this.#state = message.loaded ? 'loaded' : 'failed';
      this.#settleLoad(message);
    });
    this.#child.once('error', (cause) => this.#failed(`${path} cannot be loaded: ${cause.message}.`));
    this.#child.once('exit', (code) => {
      if (this.#state === 'failed') return;
      if (this.#state === 'loading') return this.#failed(`${path} has ended the process that loaded it (code ${code}).`);
      // Who asked first is the likeliest to have ended it.
      const [first] = this.#waiting.keys();
      if (first !== undefined) this.#settle(first, { problem: 'The module has ended its process; it was loaded again.' });
      this.close();
    });
  }

  /** It was loaded, and has ended since. */
  get hasEnded(): boolean {
    return this.#state === 'ended';
  }

  async call<N extends keyof Calls>(name: N, argument: Parameters<Calls[N]>[0]): Promise<Told<ReturnType<Calls[N]>> | typeof GONE> {
    const loaded = await this.loaded;
    if (loaded === GONE) return GONE;
    if (!loaded.loaded) return { problem: loaded.problem };
    if (this.hasEnded) return GONE;
    const id = ++this.#count;
    return new Promise((resolve) => {
      const most = WHOLE.includes(name) ? MOST_WHOLE : MOST_TIME;
      const timer = setTimeout(() => this.#giveUp(id, most), most);
      this.#waiting.set(id, { tell: resolve as Waiting['tell'], timer });
      this.#child.send({ id, name, argument } satisfies Call, (cause) => cause && this.#settle(id, GONE));
    });
  }

  /** Whoever waits for it is told that it is gone. */
  close(): void {
    if (this.#state !== 'failed') this.#state = 'ended';
    this.#child.removeAllListeners();
    // What fails from now on is of no interest, and must not end the workbench.
    this.#child.on('error', () => undefined);
    this.#child.kill('SIGKILL');
    this.#settleLoad(GONE);
    for (const id of [...this.#waiting.keys()]) this.#settle(id, GONE);
  }

  #failed(problem: string): void {
    this.#state = 'failed';
    this.#settleLoad({ loaded: false, problem });
    this.close();
  }

  /** A rule that never ends is ended with its process. */
  #giveUp(id: number, most: number): void {
    this.#settle(id, {
      problem: `No answer within ${most / 1000} seconds: a rule or a question to the records does not end. The module was loaded again.`,
    });
    this.close();
  }

  #settle(id: number, told: unknown): void {
    const waiting = this.#waiting.get(id);
    if (!waiting) return;
    clearTimeout(waiting.timer);
    this.#waiting.delete(id);
    waiting.tell(told as Told<unknown> | typeof GONE);
  }
}
