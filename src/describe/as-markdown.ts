import { asMermaid } from '../core/plan/graph.ts';
import { collectionText, refusedText, stepsOf } from './as-text.ts';
import type { DescribedField, DescribedRule, Description } from './description.ts';

/** A description as Markdown (CommonMark with tables), its graph as Mermaid. */
export function describedAsMarkdown(description: Description): string {
  const { words, name, accepted } = description;
  const parts: string[] = [`# ${escaped(name)}`];
  const facts = [
    ...(description.zone !== undefined ? [`${words.zone}: ${description.zone}`] : []),
    `${words.occasions}: ${description.occasions.join(', ')}`,
    ...(description.storedIn !== undefined ? [`${words.storedIn}: ${description.storedIn}`] : []),
    ...(description.refusesStrangers ? [words.strangersRefused] : []),
  ];
  parts.push(facts.map((fact) => `- ${escaped(fact)}`).join('\n'));
  const rule = (each: DescribedRule) => ruleItem(each, words);
  const fields = (title: string, all: readonly DescribedField[]) => {
    if (all.length === 0) return;
    const rows = all.map((field) => {
      const told = [field.presence, ...field.marks].join(', ');
      const kind = field.options.length > 0 ? `${field.kind}: ${field.options.join(', ')}` : field.kind;
      return `| ${cell(field.label)} | \`${field.path}\` | ${cell(kind)} | ${cell(told)} |`;
    });
    parts.push(
      `## ${title}`,
      [`| ${words.field} | | ${words.kind} | ${words.presence} |`, '| --- | --- | --- | --- |', ...rows].join('\n'),
    );
    for (const field of all) {
      const notes = field.cleans.length > 0 ? [`- ${words.cleaned}: ${field.cleans.join(', ')}`] : [];
      if (field.rules.length + notes.length > 0) parts.push(`### ${escaped(field.label)}`, [...notes, ...field.rules.map(rule)].join('\n'));
    }
  };
  fields(words.fields, description.fields);
  fields(words.given, description.given);
  for (const [step, title] of stepsOf(description)) {
    const all = description.rules.filter((each) => each.step === step);
    if (all.length > 0) parts.push(`## ${title}`, all.map(rule).join('\n'));
  }
  if (description.collections.length > 0)
    parts.push(`## ${words.collections}`, description.collections.map((each) => `- ${escaped(collectionText(each, words))}`).join('\n'));
  if (accepted) {
    parts.push(`## ${words.example}: ${words.accepted}`, fenced('json', JSON.stringify(accepted.submission, null, 2)));
    if (Object.keys(accepted.given).length > 0) parts.push(`${words.given}:`, fenced('json', JSON.stringify(accepted.given, null, 2)));
    if (accepted.stored.length > 0)
      parts.push(accepted.stored.map(({ collection, row }) => `- ${words.withStored} ${escaped(collection)}: \`${row}\``).join('\n'));
  }
  if (description.graph.rules.some(({ step }) => step !== 'value'))
    parts.push(`## ${words.graph}`, fenced('mermaid', asMermaid(description.graph).trimEnd()));
  return `${parts.join('\n\n')}\n`;
}

function ruleItem(rule: DescribedRule, words: Description['words']): string {
  const { sentence, terms, use, refused } = rule;
  const how = terms.length > 0 ? ` (${terms.join('; ')})` : '';
  const line = `- ${escaped(`${sentence}${how}`)} \`${use}\``;
  return refused ? `${line}\n  - ${words.refused}: ${escaped(refusedText(rule, refused, words))}` : line;
}

/** Text that Markdown takes for text. */
function escaped(text: string): string {
  return text.replaceAll(/[\\`*_{}[\]<>#|~]/g, '\\$&').replaceAll('\n', ' ');
}

function cell(text: string): string {
  return escaped(text);
}

function fenced(language: string, text: string): string {
  return `\`\`\`${language}\n${text}\n\`\`\``;
}
