import { resolve } from 'node:path';
import type { Calls, CaseState, KeptCase, ModuleState, Settings, Told } from '../../workbench/wire.ts';
import { type Version, versionOf } from '../compare/revision.ts';
import { withoutPassword } from '../databases/address.ts';
import { CasesFile } from './cases-file.ts';
import { ModuleProcess } from './module-process.ts';

/** What the workbench remembers while it runs: the module, loaded anew whenever it changes, its cases, and versions to compare with. */
export class Workbench {
  readonly #path: string;
  readonly #defaults: Settings;
  readonly #file: CasesFile;
  readonly #told = new Set<() => void>();
  #current: ModuleProcess;
  #loads = 1;
  /** The last version that was compared with; each takes a process. */
  #other: { readonly name: string; readonly version: Version; readonly process: ModuleProcess } | undefined;

  constructor(path: string, defaults: Settings) {
    this.#path = path;
    this.#defaults = defaults;
    this.#file = new CasesFile(resolve(path), defaults.records);
    this.#current = new ModuleProcess(path);
  }

  /** Loads the module again, and tells the page. */
  reload(): void {
    this.#current.close();
    this.#current = new ModuleProcess(this.#path);
    this.#loads += 1;
    const loads = this.#loads;
    void this.#current.loaded.then(() => {
      if (loads === this.#loads) for (const tell of this.#told) tell();
    });
  }

  onLoad(tell: () => void): () => void {
    this.#told.add(tell);
    return () => this.#told.delete(tell);
  }

  async state(): Promise<ModuleState> {
    const loaded = await this.#current.loaded;
    return {
      path: this.#path,
      loads: this.#loads,
      intakes: loaded.loaded ? loaded.intakes : [],
      ...(!loaded.loaded && { problem: loaded.problem }),
      hasRecords: loaded.loaded && loaded.hasRecords,
      casesFile: this.#file.path,
      defaults: { ...this.#defaults, records: withoutPassword(this.#defaults.records) },
    };
  }

  async call<N extends keyof Calls>(name: N, argument: Parameters<Calls[N]>[0], version?: string): Promise<Told<ReturnType<Calls[N]>>> {
    const process = version === undefined || version.trim() === '' ? this.#current : this.#version(version.trim());
    return process.call(name, this.#withPassword(argument));
  }

  /** All kept cases, with what they come to now. */
  async cases(): Promise<Told<{ readonly cases: readonly KeptCase[]; readonly states: readonly CaseState[] }>> {
    const cases = this.#file.read();
    const states = await this.#current.call('cases', { cases });
    return 'problem' in states ? states : { cases, states };
  }

  keep(cases: readonly KeptCase[]): Told<{ readonly proof: string }> {
    this.#file.write(cases);
    return { proof: this.#file.proofPath };
  }

  close(): void {
    this.#current.close();
    this.#closeOther();
  }

  #version(name: string): ModuleProcess {
    if (this.#other?.name === name) return this.#other.process;
    const version = versionOf(name, this.#path);
    this.#closeOther();
    this.#other = { name, version, process: new ModuleProcess(version.path) };
    return this.#other.process;
  }

  #closeOther(): void {
    this.#other?.process.close();
    this.#other?.version.close();
    this.#other = undefined;
  }

  /** The page is told no password; where it names the database of the command line, it means that. */
  #withPassword<A>(argument: A): A {
    const { settings } = argument as { readonly settings?: Settings };
    if (settings?.records !== withoutPassword(this.#defaults.records)) return argument;
    return { ...argument, settings: { ...settings, records: this.#defaults.records } };
  }
}
