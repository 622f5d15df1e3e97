/** What the filling of a form needs to know, wherever it is shown. */
export interface FillingOptions {
  /** The given fields of the intake, as far as the page knows them. */
  readonly given?: object | (() => object);
  /** What is stored, when the form changes it: as it was accepted, as far as the page may know it. */
  readonly stored?: object;
  /** The language of findings. Defaults to that of the document. */
  readonly locale?: () => string;
  /** An address that judges the form without storing it, for rules that need records: 2xx, or 422 with findings. */
  readonly judgeAt?: string;
  /** Milliseconds to wait before the server is asked. Defaults to 300. */
  readonly wait?: number;
  /** Sends the form by a script, and shows what the server finds. Without it the browser sends the form itself. */
  readonly send?: (form: FormData, signal: AbortSignal) => Promise<Response>;
  /** What follows an answer: done, findings (which are shown already), or a problem of another sort (which is told). */
  readonly onAnswer?: (response: Response) => void | Promise<void>;
  /** `send` has failed: the server could not be reached. People are told so in any case. */
  readonly onTrouble?: (error: unknown) => void;
}

/** The language in which findings are told. */
export function localeOf({ locale }: FillingOptions): string {
  return locale?.() ?? (document.documentElement.lang || 'en');
}
