import type { TraceLine } from '../../core/basics/verdict.ts';
import type { LaidOut } from '../../describe/drawing.ts';

// An intake as the page shows it.

/** A field as a form shows it. */
export interface ShownField {
  readonly key: string;
  readonly path: string;
  readonly label: string;
  readonly sort: 'text' | 'number' | 'flag' | 'choice' | 'day' | 'group' | 'list' | 'table' | 'shapes' | 'json';
  readonly kind: string;
  readonly isNeeded: boolean;
  readonly isSecret: boolean;
  /** What it must satisfy, in words. */
  readonly rules: readonly string[];
  readonly options: readonly { readonly value: string | number; readonly label: string }[];
  readonly inner?: readonly ShownField[];
  readonly item?: ShownField;
  readonly tag?: string;
  readonly shapes?: readonly { readonly name: string; readonly fields: readonly ShownField[] }[];
}

/** A use of a rule as the page lists it. */
export interface ShownRule {
  readonly use: string;
  readonly rule: string;
  readonly step: TraceLine['step'];
  readonly sentence: string;
  /** When it counts, and how. */
  readonly terms: readonly string[];
  readonly reads: readonly string[];
  readonly asks: readonly string[];
  readonly when: readonly string[];
  /** It is the application's own, so that a case may become a sample of it. */
  readonly isOwn: boolean;
}

export interface ShownIntake {
  readonly name: string;
  readonly fields: readonly ShownField[];
  readonly given: readonly ShownField[];
  readonly rules: readonly ShownRule[];
  /** Of the rules that look at several values or at records, and of all of them. */
  readonly graphs: { readonly several: LaidOut; readonly all: LaidOut };
  readonly occasions: readonly string[];
  readonly locales: readonly string[];
  readonly zone: string | undefined;
  /** Where accepted values go, and the columns of its key. */
  readonly storedIn?: { readonly collection: string; readonly key: readonly string[] };
  readonly collections: readonly string[];
  readonly hasSecrets: boolean;
  /** A submission that is accepted where the store has what it names. */
  readonly example: object;
  readonly exampleGiven: object;
}
