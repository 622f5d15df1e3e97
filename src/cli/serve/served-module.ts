import type { Told } from '../../workbench/wire/asked.ts';
import type { Calls } from '../../workbench/wire/calls.ts';
import type { Loaded, Loading } from './bench/messages.ts';
import { GONE, ModuleProcess } from './module-process.ts';

/** A module, in whatever process has it loaded now: who asks is answered by the newest, and never by one that is gone. */
export class ServedModule {
  readonly #loading: Loading;
  #process: ModuleProcess;
  #loads = 1;
  #loaded: Loaded | undefined;
  #isClosed = false;

  constructor(loading: Loading) {
    this.#loading = loading;
    this.#process = this.#start();
  }

  /** How often it was loaded because it has changed. */
  get loads(): number {
    return this.#loads;
  }

  /** What the newest load has come to; nothing while it goes on. A process that was ended by a rule is no new load. */
  get now(): Loaded | undefined {
    return this.#loaded;
  }

  /** What the newest load comes to. */
  async loaded(): Promise<Loaded> {
    for (;;) {
      const loaded = await this.#process.loaded;
      if (loaded !== GONE) return loaded;
      if (this.#isClosed) return { loaded: false, problem: CLOSED };
    }
  }

  async call<N extends keyof Calls>(name: N, argument: Parameters<Calls[N]>[0]): Promise<Told<ReturnType<Calls[N]>>> {
    while (!this.#isClosed) {
      if (this.#process.hasEnded) this.#process = this.#start();
      const told = await this.#process.call(name, argument);
      if (told !== GONE) return told;
    }
    return { problem: CLOSED };
  }

  /** Loads it again, since it has changed. */
  reload(): void {
    this.#loads += 1;
    this.#loaded = undefined;
    const before = this.#process;
    this.#process = this.#start();
    before.close();
  }

  /** The next question loads it again. */
  forget(): void {
    this.#process.close();
  }

  close(): void {
    this.#isClosed = true;
    this.#process.close();
  }

  #start(): ModuleProcess {
    const started = new ModuleProcess(this.#loading);
    void started.loaded.then((loaded) => {
      if (this.#process === started && loaded !== GONE) this.#loaded = loaded;
    });
    return started;
  }
}

const CLOSED = 'The process with this module was ended; ask again.';
