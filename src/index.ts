// The whole core, by name. Records, forms and formats have entries of their own (`jestril/memory`, `jestril/sql`, …).

// describing
export { Fault } from './core/basics/fault.ts';
export { type Accepted, type Intake, intake, isIntake } from './core/intake.ts';
export type { Options } from './core/judging/options.ts';
export { amendLocally, fingerprintOf, graphOf, inspect, readersOf, refusalOf } from './core/beside.ts';
export { checkStore } from './core/check-store.ts';
export { locksFor } from './core/locks-for.ts';
export { refused } from './core/races/refused.ts';
export { mergePatch } from './core/basics/merge-patch.ts';
export type { Amended } from './core/changes/amend.ts';
export type { StoredAmendment, StoredVerdict } from './core/races/store.ts';
export type { Counts, Judged, JudgedRows } from './core/judging/judged-rows.ts';
export type { Submissions } from './core/judging/judge-many.ts';
export { asMermaid, type Graph, type GraphCondition, type GraphRule } from './core/plan/graph.ts';
export type { Texts } from './core/basics/text.ts';

// kinds
export { choice, labelled } from './core/kinds/choice.ts';
export { day } from './core/kinds/day.ts';
export { exact } from './core/kinds/exact.ts';
export { flag } from './core/kinds/flag.ts';
export { type JsonValue, jsonValue } from './core/kinds/json-value.ts';
export { group } from './core/kinds/group.ts';
export { list } from './core/kinds/list.ts';
export { decimal, whole } from './core/kinds/numbers.ts';
export { type OwnKind, ownKind } from './core/kinds/own-kind.ts';
export { oneOfShapes, shape } from './core/kinds/shapes.ts';
export { table } from './core/kinds/table.ts';
export { text } from './core/kinds/text.ts';
export { moment, timeOfDay } from './core/kinds/times.ts';
export { inlineUpload } from './core/kinds/inline-upload.ts';
export { receivedFile, type Upload, upload } from './core/kinds/upload.ts';

// fields and their values
export type {
  AcceptedOf,
  AnyField,
  Field,
  Fields,
  GivenOf,
  GroupField,
  ListField,
  ShapesField,
  TableField,
  ValueOf,
} from './core/declared/field.ts';
export { addDays, type Day, nightsBetween } from './core/basics/days.ts';
export { compareExact, type Exact, exactSum } from './core/basics/exact.ts';
export type { Moment, TimeOfDay } from './core/basics/moments.ts';

// cleaning
export { cleaning } from './core/cleaning/clean.ts';
export type { Clean } from './core/declared/rule.ts';
export { collapse, dropControls, escapeMarkup, foldCase, lineEnds, trim, unicodeForm } from './core/cleaning/steps.ts';

// rules about text
export { characterMix, digits, letters, lettersAndDigits, lowerCase, upperCase } from './core/rules/characters.ts';
export { countryCode, currencyCode, languageTag, timeZone } from './core/rules/codes.ts';
export { email } from './core/rules/email.ts';
export { base64, jsonText } from './core/rules/encodings.ts';
export { length } from './core/rules/length.ts';
export { cardNumber, iban, phone, uuid } from './core/rules/numbers-of-record.ts';
export { contains, endsWith, startsWith, without } from './core/rules/parts.ts';
export { pattern } from './core/rules/pattern.ts';
export { hostName, ipAddress, webAddress } from './core/rules/web.ts';

// rules about other values
export { above, below } from './core/rules/above-below.ts';
export { allowed, forbidden } from './core/rules/allowed.ts';
export { satisfiesAll, satisfiesAny, satisfiesNone } from './core/rules/combined.ts';
export { isFalse, isTrue } from './core/rules/is-true.ts';
export { distinct, mustContain } from './core/rules/list-content.ts';
export { type JsonType, jsonTypes } from './core/rules/json-types.ts';
export { multipleOf, places, precision } from './core/rules/places.ts';
export { atLeast, atMost, between } from './core/rules/range.ts';
export {
  daysFromToday,
  minutesFromNow,
  now,
  type RelativeDay,
  type RelativeMoment,
  today,
  yearsBeforeToday,
} from './core/rules/relative.ts';
export { after, before, notAfter, notBefore, onWeekdays, yearsOld } from './core/rules/time-limits.ts';
export { mediaTypes, uploadSize } from './core/rules/upload-limits.ts';

// rules between fields
export { among } from './core/rules/among.ts';
export { daysApart } from './core/rules/days-apart.ts';
export { inOrder } from './core/rules/in-order.ts';
export { absent, atLeastOneOf, exactlyOneOf, needed, together } from './core/rules/presence.ts';
export { different, same } from './core/rules/same.ts';
export { totalAtMost } from './core/rules/total-at-most.ts';

// rules against stored records
export { noOverlap } from './core/rules/no-overlap.ts';
export { storedChoice } from './core/rules/stored-choice.ts';
export { unexpired } from './core/rules/unexpired.ts';
export { unchangedSince } from './core/rules/unchanged-since.ts';
export { known, unique } from './core/rules/unique-known.ts';
export { cached } from './core/stored/cached.ts';
export { type Collection, collection } from './core/rules/collection.ts';
export type { ClaimedInterval, ClaimStore } from './core/asking/ledger.ts';
export type { RowOf } from './core/stored/look-up.ts';
export { both, column, either, exactly, ignoringCase, inSame, inThis, notAbove, notBelow } from './core/stored/where.ts';
export type { CalendarUnit } from './core/basics/calendar.ts';
export { countBy, sumBy } from './core/rules/by-key.ts';
export type {
  Answer,
  Conflict,
  FixedValues,
  KnownNeed,
  Need,
  OverlapNeed,
  Question,
  Records,
  Scope,
  StoreGap,
  StoredRow,
  Term,
  UniqueNeed,
} from './core/stored/records.ts';
export type { Comparison } from './core/declared/look-up.ts';

// rules of one's own
export { entries, maybe, type ReadOf } from './core/rules/roles.ts';
export type { Role, Roles } from './core/declared/kind.ts';
export { type Rule, type RuleBody, type RuleOfValue, rule, type Sample } from './core/rules/rule.ts';
export { asStored, type Use } from './core/rules/use.ts';
export type { AsStored, BoundRule, ValueRule, ValueUse } from './core/declared/rule.ts';
export type { Severity } from './core/basics/verdict.ts';

// conditions
export {
  allOf,
  anyOf,
  type Condition,
  condition,
  equals,
  fromDay,
  not,
  occasionIs,
  present,
  untilDay,
  when,
} from './core/rules/condition.ts';

// what judging gives
export type {
  Circumstances,
  Finding,
  Place,
  Scalar,
  Trace,
  TracedCondition,
  TraceLine,
  Trial,
  Unsettled,
  Verdict,
  Why,
} from './core/basics/verdict.ts';
export type { Catalogue } from './core/messages/catalogues/catalogue.ts';
export { asCompact, asLines, asText, byPlace, type CompactFinding } from './core/messages/renderers.ts';
export type { Json } from './core/plan/inspect.ts';

// types that the declarations of rule packages name
export type { Flat, Mark, Nested, Shapes } from './core/declared/field.ts';
export type { Kind, MARKS, NEEDS, VALUE } from './core/declared/kind.ts';
export type { Step, TextRule } from './core/declared/rule.ts';
export type { ChoiceKind, ChoiceOptions, Labelled } from './core/kinds/choice.ts';
export type { DayKind } from './core/kinds/day.ts';
export type { ExactKind } from './core/kinds/exact.ts';
export type { FlagKind } from './core/kinds/flag.ts';
export type { GroupKind } from './core/kinds/group.ts';
export type { InlineUploadKind } from './core/kinds/inline-upload.ts';
export type { JsonKind } from './core/kinds/json-value.ts';
export type { ListKind } from './core/kinds/list.ts';
export type { DecimalKind, WholeKind } from './core/kinds/numbers.ts';
export type { ShapeBody, ShapesKind } from './core/kinds/shapes.ts';
export type { TableKind } from './core/kinds/table.ts';
export type { TextKind } from './core/kinds/text.ts';
export type { MomentKind, TimeKind } from './core/kinds/times.ts';
export type { UploadKind } from './core/kinds/upload.ts';
export type { ConditionBody, Conditional } from './core/rules/condition.ts';
export type { Bound, KindOfBound } from './core/rules/relative.ts';
export type { AnyPath, Binding, EntriesRole, MaybeRole, OfKind } from './core/rules/roles.ts';
export type { ParamsOf } from './core/rules/rule.ts';
export type { Columns, FoundOf, LookUp, LookUps, OneOf } from './core/stored/look-up.ts';
export type { Both, Compare, Either, Fixed, FixedColumns, InCalendar, OtherColumn, Where } from './core/stored/where.ts';
