// Proving rules and intakes by their samples.
export { type TriedChange, triedChanges } from './changes.ts';
export type { Edge } from './edges.ts';
export { type Proof, prove } from './prove.ts';
export { type Provable, ruleOf, type Samples } from './rule-cases.ts';
export type { Change, Subject, Submissions } from './subject.ts';
