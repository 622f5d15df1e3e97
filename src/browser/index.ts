export { type BindOptions, type BoundForm, bindForm } from './bind-form.ts';
export type { ShownFinding } from './filling/finding.ts';
export type { FillingOptions } from './filling/options.ts';
