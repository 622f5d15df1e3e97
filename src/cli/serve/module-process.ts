import { type ChildProcess, fork } from 'node:child_process';
import { join } from 'node:path';
import type { Calls, Told } from '../../workbench/wire.ts';
import { packageRoot } from '../basics/loading.ts';
import type { Call, Loaded, Reply } from './bench/process.ts';

/** Milliseconds that a judgement may take, and that what goes through all of a module may. */
const MOST_TIME = 8000;
const MOST_WHOLE = 40_000;
const WHOLE: readonly (keyof Calls)[] = ['describe', 'cases'];

/** One load of a module, in a process of its own. */
export class ModuleProcess {
  readonly path: string;
  #child: ChildProcess;
  #loaded: Promise<Loaded>;
  #count = 0;
  readonly #waiting = new Map<number, (told: Told<unknown>) => void>();

  constructor(path: string) {
    this.path = path;
    [this.#child, this.#loaded] = this.#start();
  }

  get loaded(): Promise<Loaded> {
    return this.#loaded;
  }

  async call<N extends keyof Calls>(name: N, argument: Parameters<Calls[N]>[0]): Promise<Told<ReturnType<Calls[N]>>> {
    const loaded = await this.#loaded;
    if (!loaded.loaded) return { problem: loaded.problem };
    const id = ++this.#count;
    return new Promise((resolve) => {
      const most = WHOLE.includes(name) ? MOST_WHOLE : MOST_TIME;
      const timer = setTimeout(() => this.#giveUp(most), most);
      this.#waiting.set(id, (told) => {
        clearTimeout(timer);
        this.#waiting.delete(id);
        resolve(told as Told<ReturnType<Calls[N]>>);
      });
      this.#child.send({ id, name, argument } satisfies Call);
    });
  }

  close(): void {
    this.#child.removeAllListeners();
    this.#child.kill('SIGKILL');
    this.#settle('The module was loaded again.');
  }

  /** A rule that never ends is ended with its process; the next call finds a new one. */
  #giveUp(most: number): void {
    this.#child.removeAllListeners();
    this.#child.kill('SIGKILL');
    this.#settle(`No answer within ${most / 1000} seconds: a rule or a question to the records does not end. The module was loaded again.`);
    [this.#child, this.#loaded] = this.#start();
  }

  #settle(problem: string): void {
    for (const tell of [...this.#waiting.values()]) tell({ problem });
  }

  #start(): [ChildProcess, Promise<Loaded>] {
    const child = fork(join(packageRoot(), 'dist/node/cli/serve/bench/process.js'), [this.path], {
      // What the module writes is for the terminal.
      stdio: ['ignore', process.stderr, process.stderr, 'ipc'],
    });
    const loaded = new Promise<Loaded>((resolve) => {
      const timer = setTimeout(() => {
        child.kill('SIGKILL');
        resolve({ loaded: false, problem: `${this.path} does not end loading.` });
      }, MOST_WHOLE);
      let isLoaded = false;
      child.on('message', (message: Reply | Loaded) => {
        if ('id' in message) return this.#waiting.get(message.id)?.('result' in message ? message.result : { problem: message.problem });
        clearTimeout(timer);
        isLoaded = message.loaded;
        resolve(message);
      });
      child.once('exit', (code) => {
        clearTimeout(timer);
        resolve({ loaded: false, problem: `${this.path} has ended the process that loaded it (code ${code}).` });
        // One that ends while it loads would do so again.
        if (child !== this.#child || !isLoaded) return;
        this.#settle('The module has ended its process; it was loaded again.');
        [this.#child, this.#loaded] = this.#start();
      });
    });
    return [child, loaded];
  }
}
