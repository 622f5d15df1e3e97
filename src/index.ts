// The whole core, by name. Records, servers and formats have entries of their own (`jestril/memory`, `jestril/sql`).

// conditions
export { allOf, anyOf, type Condition, condition, equals, not, occasionIs, when } from './core/conditions/condition.ts';
export { addDays, type Day, nightsBetween } from './core/days.ts';
export type { Exact } from './core/exact.ts';
export { Fault } from './core/fault.ts';
// describing
export { type Accepted, type Intake, intake, isIntake, type Options } from './core/intake.ts';
// kinds and fields
export { choice, labelled } from './core/kinds/choice.ts';
export { foldCase, trim } from './core/kinds/clean.ts';
export { day } from './core/kinds/day.ts';
export { exact } from './core/kinds/exact.ts';
export type { AcceptedOf, AnyField, Field, Fields, GivenOf, GroupField, ListField, ValueOf } from './core/kinds/field.ts';
export { flag } from './core/kinds/flag.ts';
export { group } from './core/kinds/group.ts';
export { list } from './core/kinds/list.ts';
export { decimal, whole } from './core/kinds/numbers.ts';
export { type OwnKind, ownKind } from './core/kinds/own-kind.ts';
export { oneOfShapes, shape } from './core/kinds/shapes.ts';
export { table } from './core/kinds/table.ts';
export { text } from './core/kinds/text.ts';
export { moment, timeOfDay } from './core/kinds/times.ts';
export { type Upload, upload } from './core/kinds/upload.ts';
export type { Moment, TimeOfDay } from './core/moments.ts';

// rules about one value
export { daysFromToday, notAfter, notBefore, type RelativeDay, today, yearsBeforeToday } from './core/rules/day-limits.ts';
export { email } from './core/rules/email.ts';
// rules between fields
export { inOrder } from './core/rules/in-order.ts';
export { isTrue } from './core/rules/is-true.ts';
export { length } from './core/rules/length.ts';
export { pattern } from './core/rules/pattern.ts';
export { places } from './core/rules/places.ts';
export { atLeastOneOf, needed } from './core/rules/presence.ts';
export { atLeast, atMost, between } from './core/rules/range.ts';
// rules of one's own
export { entries, maybe, type ReadOf, type Role, type Roles } from './core/rules/roles.ts';
export { type Rule, type RuleBody, type RuleOfValue, rule, type Sample } from './core/rules/rule.ts';
export { same } from './core/rules/same.ts';
// rules against stored records
export { known, unique } from './core/rules/stored.ts';
export type { BoundRule, Severity, Use, ValueRule, ValueUse } from './core/rules/use.ts';
export { type Collection, collection } from './core/stored/collection.ts';
export { above, below, exactly, ignoringCase, notAbove, notBelow, type RowOf } from './core/stored/look-up.ts';
export type { Answer, Comparison, Question, Records, StoredRow, Term } from './core/stored/records.ts';
export type { Texts } from './core/text.ts';

// what judging gives
export type { Circumstances, Finding, Place, Scalar, Trace, TraceLine, Unsettled, Verdict, Why } from './core/verdict.ts';
