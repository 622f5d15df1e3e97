import type { Calls } from '../../../workbench/wire/calls.ts';

// What the process with a module and the one that started it tell each other.

/** What it is given: the module, the one whose folder modules come from, and modules that the command line names. */
export interface Loading {
  readonly path: string;
  readonly own: string;
  readonly named: readonly string[];
}

/** What the process is told to do, and what it answers. */
export interface Call {
  readonly id: number;
  readonly name: keyof Calls;
  readonly argument: unknown;
}
export type Reply = { readonly id: number } & ({ readonly result: unknown } | { readonly problem: string });
export type Loaded =
  | { readonly loaded: true; readonly intakes: readonly string[]; readonly hasRecords: boolean }
  | { readonly loaded: false; readonly problem: string };
