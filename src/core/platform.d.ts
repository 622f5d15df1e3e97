// All that the core may use besides ECMAScript: what browsers, Node.js and workers have in common (ECMA-429, the Minimum
// Common Web API). tsconfig.core.json compiles the core with this file and nothing else, so that any other global is an error.

interface AbortSignal {
  readonly aborted: boolean;
  readonly reason: unknown;
  throwIfAborted(): void;
  addEventListener(type: 'abort', listener: () => void, options?: { readonly once?: boolean }): void;
  removeEventListener(type: 'abort', listener: () => void): void;
}
declare class AbortController {
  readonly signal: AbortSignal;
  abort(reason?: unknown): void;
}
declare function setTimeout(callback: () => void, milliseconds: number): { readonly brand: 'timeout' };
declare function clearTimeout(timeout: { readonly brand: 'timeout' }): void;
declare class URL {
  constructor(url: string);
  readonly protocol: string;
  readonly hostname: string;
}

/** Decodes base64 (WHATWG HTML, 8.3); a character for each byte. */
declare function atob(data: string): string;
