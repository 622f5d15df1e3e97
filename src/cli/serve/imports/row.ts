/** What a row of an import holds, and how it is read; or why that is not known. */
export type Row = { readonly submission: unknown; readonly as: 'json' | 'form' } | { readonly problem: string };
