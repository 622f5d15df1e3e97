// Intakes from the documents that a service publishes: JSON Schema 2020-12, OpenAPI 3.1.
export type { BuiltIntake } from '../drafts/built.ts';
export { intakesOf, type Published, type PublishedOptions } from './intakes-of.ts';
export type { JudgedExchange, Operation, PublishedAnswer, PublishedRequest } from './operation.ts';
export type { Refused } from './places.ts';
