import type { AnyField } from '../../core/declared/field.ts';
import { UNREADABLE } from '../../core/declared/kind.ts';
import type { ToldKind } from '../../core/declared/told-kind.ts';
import { choiceTold } from '../../core/kinds/choice.ts';
import { specOf } from '../../core/kinds/field.ts';
import { built } from '../../drafts/built.ts';
import { type Argument, type Call, call, type FieldDraft, type IntakeDraft } from '../../drafts/draft.ts';
import { labelOf } from '../../published/fields.ts';
import type { ColumnFacts, OpenedDatabase } from '../databases/sort.ts';
import { guessedField } from './guessed.ts';
import { Profile } from './profile.ts';
import { storedRules } from './stored-rules.ts';
import { kindOfType, tableIn } from './table-facts.ts';

export type Row = { readonly [column: string]: unknown };

/**
 * An intake for what is to be stored in a table: what the table declares, and what its rows suggest.
 *
 * @param rows few at a time
 */
export async function draftFromTable(
  name: string,
  opened: OpenedDatabase,
  named: string,
  rows: AsyncIterable<readonly Row[]>,
): Promise<IntakeDraft> {
  const found = await tableIn(opened, named);
  const columns = found.columns.map((facts) => ({
    facts,
    kind: facts.options.length > 0 ? choiceTold : kindOfType(facts.type),
    profile: new Profile(false),
    unread: 0,
  }));
  const specs = new Map(columns.map(({ facts: { name: column, options }, kind }) => [column, kind && specFor(kind, options)]));
  let count = 0;
  for await (const some of rows)
    for (const row of some) {
      count++;
      for (const column of columns) {
        const raw = row[column.facts.name];
        const value = raw === null || raw === undefined ? undefined : specs.get(column.facts.name)?.stored(raw);
        if (value === UNREADABLE) column.unread++;
        column.profile.add(value === UNREADABLE ? undefined : value);
      }
    }
  const fields: { [key: string]: FieldDraft } = {};
  const remarks: string[] = [
    `Guessed from the table ${named} (${count.toLocaleString('en')} rows). Review each line, and take its remark away.`,
  ];
  for (const { facts, kind, profile, unread } of columns) {
    const reason =
      facts.isKey && facts.isFilled
        ? 'the database makes it'
        : !kind
          ? `nothing is known of ${facts.type}`
          : unread > 0
            ? `${unread.toLocaleString('en')} of its values are no ${kind.made}`
            : undefined;
    if (reason !== undefined) remarks.push(`"${facts.name}" is left out: ${reason}.`);
    else if (kind) fields[facts.name] = fieldOf(facts, kind, profile, count);
  }
  const { collections, rules } = await storedRules(name, found, named, new Set(Object.keys(fields)), opened);
  return { name, fields, rules, refusesStrangers: false, remarks, collections };
}

function specFor({ made: kind }: ToldKind, options: readonly string[]) {
  const field = built({ kind, label: 'Value', args: options.length > 0 ? [options] : [], modifiers: [], remarks: [] }) as AnyField;
  return specOf(field, 'value').kind;
}

function fieldOf(
  { name, type, isNeeded, isFilled, options }: ColumnFacts,
  { made, spec: { storedAs } }: ToldKind,
  profile: Profile,
  count: number,
): FieldDraft {
  const label = labelOf(name, {});
  const isText = storedAs === 'text' && options.length === 0;
  const suggested = isText && profile.there > 0 ? guessedField(label, profile, { count, what: 'rows' }) : undefined;
  const guess = typeof suggested === 'object' ? suggested : undefined;
  const length = Number(/char[^(]*\((\d+)\)/.exec(type)?.[1] ?? Number.NaN);
  const [, digits, decimals = '0'] = /\((\d+)(?:,\s*(\d+))?\)/.exec(type) ?? [];
  const steps = (guess?.args ?? []).filter((arg) => !(Number.isFinite(length) && isLength(arg)));
  const declared: Call[] = [
    ...(isText && Number.isFinite(length) && guess?.kind !== 'choice' ? [call('length', { max: length })] : []),
    ...(storedAs === 'numeric' && digits !== undefined
      ? [call('precision', { whole: Number(digits) - Number(decimals), places: Number(decimals) })]
      : []),
  ];
  const mayBeMissing = !isNeeded || isFilled;
  const modifiers = mayBeMissing ? [call('orAbsent')] : profile.blank > 0 ? [call('blankAllowed')] : [];
  const rests = [
    type,
    isNeeded ? (isFilled ? 'the database fills it where it is missing' : 'not null') : 'may be null',
    ...(guess?.remarks ?? [])
      .map((remark) => remark.replaceAll(/^Guess: (there|missing) in [^;]*;? ?|(; )?no two alike.*$|\.$/g, ''))
      .filter(Boolean),
  ];
  return {
    kind: guess?.kind ?? made,
    label,
    args: options.length > 0 ? [options] : [...steps, ...declared],
    modifiers,
    remarks: [`Guess: ${rests.join('; ')}.`],
  };
}

function isLength(argument: Argument): boolean {
  return typeof argument === 'object' && argument !== null && 'call' in argument && argument.call === 'length';
}
