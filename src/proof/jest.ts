import type { Records, StoredRow } from '../core/stored/records.ts';
import { casesOf, gapsOf, nameOf } from './prove.ts';
import { recordsCases } from './records-cases.ts';
import type { ProofCase } from './rule-cases.ts';
import { type SampleTables, sampleTables } from './sample-tables.ts';
import { checkSubject, type Subject } from './subject.ts';

export type { SampleTable, SampleTables } from './sample-tables.ts';

/** What the helper needs of a test runner; Jest has these as globals. */
interface Runner {
  describe(name: string, body: () => void): void;
  test(name: string, body: () => Promise<void>): void;
  beforeAll(body: () => Promise<void>): void;
  afterAll(body: () => Promise<void>): void;
}

/**
 * Turns what can be proved into a table of named tests, and its gaps into one more.
 *
 * @param gapsAllowed gaps that are known; others fail the last test. With `all` there is no such test: single cases that were kept
 */
export function describeProof(subject: Subject, { gapsAllowed = [] }: { readonly gapsAllowed?: readonly string[] | 'all' } = {}): void {
  const { describe, test } = globalThis as unknown as Runner;
  checkSubject(subject);
  describe(nameOf(subject), () => {
    runAsTests(casesOf(subject));
    if (gapsAllowed === 'all') return;
    test('leaves no gap', async () => {
      const gaps = (await gapsOf(subject)).filter((gap) => !gapsAllowed.includes(gap));
      if (gaps.length > 0) throw new Error(gaps.join('\n'));
    });
  });
}

/** A store that holds the sample tables. */
export interface OpenedRecords {
  readonly records: Records;
  /** Stores one row in a table that it was given, as the application does: with it conflicts are tried, too. Every table has the key `id`. */
  readonly insert?: (table: string, row: StoredRow) => Promise<unknown>;
  /** Called when all is tried. */
  readonly close?: () => Promise<void> | void;
}

/**
 * Tries a store of one's own with all that rules may ask of it, one named test each.
 *
 * @param open makes the tables that it is given, fills them, and gives the records that read them. It is called once
 */
export function describeRecords(name: string, open: (tables: SampleTables) => Promise<OpenedRecords> | OpenedRecords): void {
  const { describe, beforeAll, afterAll } = globalThis as unknown as Runner;
  describe(name, () => {
    let opened: OpenedRecords | undefined;
    beforeAll(async () => {
      opened = await open(sampleTables);
    });
    afterAll(async () => {
      await opened?.close?.();
    });
    runAsTests(recordsCases(() => opened as OpenedRecords));
  });
}

function runAsTests(cases: readonly ProofCase[]): void {
  const { test } = globalThis as unknown as Runner;
  for (const { name, run } of cases) {
    test(name, async () => {
      const problem = await run();
      if (problem !== undefined) throw new Error(problem);
    });
  }
}
