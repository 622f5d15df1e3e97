// Proving rules and intakes by their samples.
export { type TriedChange, triedChanges } from './changes.ts';
export type { Edge } from './edges.ts';
export { type Change, type Proof, prove, type Subject, type Submissions } from './prove.ts';
export { type Provable, ruleOf, type Samples } from './rule-cases.ts';
