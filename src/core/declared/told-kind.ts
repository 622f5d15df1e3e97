import type { KindSpec } from './kind.ts';

/** The numbers among values of a field. */
export interface NumbersSeen {
  readonly least: number;
  readonly most: number;
  readonly places: number;
}

/**
 * What is told of a kind outside of judging: by descriptions, exports, drafts and the workbench. It stands in the kind's own file beside
 * its `KindSpec`, and no page loads it; `kinds/told.ts` lists it.
 */
export interface ToldKind {
  readonly spec: KindSpec;
  /** Makes its fields. */
  readonly make: unknown;
  /** The name of that, as code calls it. */
  readonly made: string;
  /** What a person calls it, in English; the other languages have it under its name. */
  readonly called: string;
  /** The type of its values, in TypeScript. */
  readonly typeScript: string;
  /** Columns that keep what it is stored as are read as it, and not as another kind that is stored alike. */
  readonly isReadFrom?: true;
  /** Its control in the workbench, where it is no box for text. */
  readonly shownAs?: 'number' | 'flag' | 'day' | 'json';
  /** It comes as a part of a multipart body, and JSON has none. */
  readonly isPart?: true;
  /** What a person types for it on the command line, where its fields are made without arguments. */
  readonly typed?: string;
  /** Where values that are all of this kind suggest it. */
  readonly guess?: {
    /** Texts of forms that it reads, and that may well be something else. */
    readonly doubtful?: RegExp;
    /** What is said of the values, instead of their range. */
    readonly says?: string;
    /** Their decimal places are told, too. */
    readonly hasPlaces?: true;
    /** Rules that they suggest, each with its argument. */
    readonly rules?: (numbers: NumbersSeen) => readonly (readonly [rule: string, argument: number])[];
  };
}
