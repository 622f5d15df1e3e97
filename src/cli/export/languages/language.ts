import type { Option } from 'commander';

/** What the options say, whichever language it is. */
export interface ExportFlags {
  readonly intake?: string;
  readonly locale: string;
  readonly strict?: boolean;
  readonly out?: string;
}

export interface Written {
  readonly text: string;
  /** What the language cannot say. */
  readonly unsaid: readonly { readonly place: string; readonly use: string; readonly why: string; readonly operation?: string }[];
}

/** A language that intakes are written in. */
export interface ExportLanguage<F extends ExportFlags = ExportFlags> {
  /** What it is called in a sentence. */
  readonly called: string;
  /** Options of its own. */
  readonly options?: readonly Option[];
  write(module: string, flags: F): Promise<Written>;
}

export function asJson(value: unknown): string {
  return `${JSON.stringify(value, null, 2)}\n`;
}
