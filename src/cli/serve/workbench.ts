import { resolve } from 'node:path';
import type { ModuleState, Settings, Told } from '../../workbench/wire/asked.ts';
import type { Calls } from '../../workbench/wire/calls.ts';
import type { CaseChange, CaseRead, CaseState, CasesChanged } from '../../workbench/wire/cases.ts';
import { type Version, versionOf } from '../compare/revision.ts';
import { withoutPassword } from '../databases/address.ts';
import { isModule } from '../records/records-at.ts';
import type { Loaded } from './bench/messages.ts';
import { OwnCode } from './bench/own-code.ts';
import { CasesFile } from './cases/cases-file.ts';
import { Imports } from './imports/imports.ts';
import { ServedModule } from './served-module.ts';

/** Versions that are kept loaded: several pages may compare with several. */
const MOST_VERSIONS = 4;

/** What the workbench remembers while it runs: the module, loaded anew whenever it changes, its cases, and versions to compare with. */
export class Workbench {
  readonly #path: string;
  readonly #defaults: Settings;
  readonly #file: CasesFile;
  readonly #code: OwnCode;
  readonly #named: readonly string[];
  readonly #current: ServedModule;
  /** The last that has come of loading, for pages that are opened while the module loads. */
  #last: Loaded | undefined;
  /** The last versions that were compared with, the newest behind; each takes a process. */
  readonly #others = new Map<string, { readonly version: Version; readonly module: ServedModule }>();

  /** Imports whose verdicts are looked at. */
  readonly imports = new Imports((name, argument, version) => this.call(name, argument, version));

  constructor(path: string, defaults: Settings) {
    this.#path = path;
    this.#defaults = defaults;
    this.#file = new CasesFile(resolve(path), defaults.records);
    this.#named = isModule(defaults.records) ? [defaults.records] : [];
    this.#code = new OwnCode(path, this.#named);
    this.#current = this.#load(path);
  }

  /** Loads the module again. */
  reload(): void {
    this.#last = this.#current.now ?? this.#last;
    this.#current.reload();
    for (const { module } of this.#others.values()) module.forget();
  }

  loaded(): Promise<Loaded> {
    return this.#current.loaded();
  }

  /** How it stands, at once. */
  state(): ModuleState {
    const { now } = this.#current;
    const known = now ?? this.#last;
    return {
      path: this.#path,
      loads: this.#current.loads,
      isLoading: now === undefined,
      intakes: known?.loaded ? known.intakes : [],
      ...(now && !now.loaded && { problem: now.problem }),
      hasRecords: known?.loaded === true && known.hasRecords,
      casesFile: this.#file.path,
      casesSeen: this.#file.seen,
      defaults: { ...this.#defaults, records: withoutPassword(this.#defaults.records) },
    };
  }

  async call<N extends keyof Calls>(name: N, argument: Parameters<Calls[N]>[0], version?: string): Promise<Told<ReturnType<Calls[N]>>> {
    const module = version === undefined || version.trim() === '' ? this.#current : this.#version(version.trim());
    return module.call(name, this.#withPassword(argument));
  }

  /** All kept cases, with what they come to now. */
  async cases(): Promise<Told<{ readonly cases: readonly CaseRead[]; readonly states: readonly CaseState[] }>> {
    const cases = this.#file.read();
    const states = await this.#current.call('cases', { cases: cases.map(({ kept }) => kept) });
    return 'problem' in states ? states : { cases, states };
  }

  change(changes: readonly CaseChange[]): CasesChanged {
    return this.#file.change(changes);
  }

  close(): void {
    this.#current.close();
    for (const name of [...this.#others.keys()]) this.#forget(name);
  }

  #load(path: string): ServedModule {
    return new ServedModule({ path, own: this.#path, named: this.#named });
  }

  #version(name: string): ServedModule {
    const known = this.#others.get(name);
    if (known) {
      this.#others.delete(name);
      this.#others.set(name, known);
      return known.module;
    }
    const version = versionOf(name, this.#path);
    try {
      this.#code.check(version.path, version.folderOf(this.#code.folder));
    } catch (cause) {
      version.close();
      throw cause;
    }
    const module = this.#load(version.path);
    this.#others.set(name, { version, module });
    const [oldest] = this.#others.keys();
    if (oldest !== undefined && this.#others.size > MOST_VERSIONS) this.#forget(oldest);
    return module;
  }

  #forget(name: string): void {
    const other = this.#others.get(name);
    this.#others.delete(name);
    other?.module.close();
    other?.version.close();
  }

  /** The page is told no password; where it names the database of the command line, it means that. */
  #withPassword<A>(argument: A): A {
    const { settings } = argument as { readonly settings?: Settings };
    if (settings?.records !== withoutPassword(this.#defaults.records)) return argument;
    return { ...argument, settings: { ...settings, records: this.#defaults.records } };
  }
}
