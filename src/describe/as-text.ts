import type { DescribedField, DescribedRule, Description, Refused } from './description.ts';

/** How a text is laid out. */
export interface TextLook {
  /** Wraps a text to the width that there is; further lines are indented. */
  readonly wrap?: (text: string, indent: number) => string;
  /** Sets off headings. */
  readonly bold?: (text: string) => string;
  /** Sets back what is told by the way. */
  readonly dim?: (text: string) => string;
}

/** A description as plain text. */
export function describedAsText(description: Description, { wrap = indented, bold = same, dim = same }: TextLook = {}): string {
  const { words, name } = description;
  const lines: string[] = [bold(name)];
  const facts = [
    description.zone !== undefined ? `${words.zone}: ${description.zone}` : undefined,
    `${words.occasions}: ${description.occasions.join(', ')}`,
    description.storedIn !== undefined ? `${words.storedIn}: ${description.storedIn}` : undefined,
    description.refusesStrangers ? words.strangersRefused : undefined,
  ].filter((fact) => fact !== undefined);
  lines.push(...facts.map((fact) => dim(wrap(fact, 2))));
  const ruleLines = (rule: DescribedRule, indent: number) => {
    const terms = rule.terms.length > 0 ? ` (${rule.terms.join('; ')})` : '';
    const out = [wrap(`${rule.sentence}${terms}`, indent), dim(wrap(rule.use, indent + 2))];
    if (rule.refused) out.push(dim(wrap(`${words.refused}: ${refusedText(rule, rule.refused, words)}`, indent + 2)));
    return out;
  };
  const fieldLines = (field: DescribedField) => {
    const indent = 2 + field.level * 2;
    const told = [field.kind, field.presence, ...field.marks];
    const out = [wrap(`${bold(field.label)}  ${dim(field.path)}  ${told.join(', ')}`, indent)];
    if (field.options.length > 0) out.push(wrap(`${words.options} ${field.options.join(', ')}`, indent + 4));
    if (field.cleans.length > 0) out.push(wrap(`${words.cleaned}: ${field.cleans.join(', ')}`, indent + 4));
    for (const rule of field.rules) out.push(...ruleLines(rule, indent + 4));
    return out;
  };
  const section = (title: string, body: readonly string[]) => {
    if (body.length > 0) lines.push('', bold(title), ...body);
  };
  section(words.fields, description.fields.flatMap(fieldLines));
  section(words.given, description.given.flatMap(fieldLines));
  for (const [step, title] of stepsOf(description))
    section(
      title,
      description.rules.filter((rule) => rule.step === step).flatMap((rule) => ruleLines(rule, 2)),
    );
  section(
    words.collections,
    description.collections.map((each) => wrap(collectionText(each, words), 2)),
  );
  if (description.accepted) {
    const { submission, given, stored } = description.accepted;
    section(`${words.example}: ${words.accepted}`, [
      wrap(JSON.stringify(submission), 2),
      ...(Object.keys(given).length > 0 ? [wrap(`${words.given}: ${JSON.stringify(given)}`, 2)] : []),
      ...stored.map(({ collection, row }) => wrap(`${words.withStored} ${collection}: ${row}`, 2)),
    ]);
  }
  return `${lines.join('\n')}\n`;
}

/** The steps of rules that are between fields, with their titles. */
export function stepsOf({ words }: Description): readonly (readonly [step: DescribedRule['step'], title: string])[] {
  return [
    ['between', words.betweenFields],
    ['record', words.stored],
    ['outside', words.outside],
  ];
}

export function refusedText({ sentence }: DescribedRule, { read, stored, message }: Refused, words: Description['words']): string {
  const values = read.map(({ label, value }) => `${label}: ${value}`).join(', ');
  const rows = stored.map(({ collection, found }) => `${collection}: ${found}`).join(', ');
  return `${values}${rows ? `; ${words.withStored}: ${rows}` : ''}${message === sentence ? '' : `. ${message}`}`;
}

export function collectionText({ name, key, columns, unique }: Description['collections'][number], words: Description['words']): string {
  const constraints = unique.map((each) => `${words.uniqueOver} (${each.join(', ')})`);
  return [`${name} (${words.key}: ${key.join(', ')})`, `${words.columns}: ${columns.join(', ')}`, ...constraints].join('; ');
}

function indented(text: string, indent: number): string {
  return ' '.repeat(indent) + text;
}

function same(text: string): string {
  return text;
}
