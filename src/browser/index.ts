// Binds an intake to an HTML form.
export { type BindOptions, type BoundForm, bindForm } from './bind-form.ts';
export type { ShownFinding } from './showing.ts';
