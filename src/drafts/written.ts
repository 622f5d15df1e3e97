import * as library from '../index.ts';
import { type Argument, type Call, type CollectionDraft, type IntakeDraft, isCall, isField, Name } from './draft.ts';

const WIDTH = 120;

/** Drafts as a TypeScript module: an exported constant for each intake, and the type of what it accepts. */
export function writtenModule(drafts: readonly IntakeDraft[]): string {
  const collections = new Map(drafts.flatMap(({ collections = [] }) => collections.map((each) => [each.constant, each] as const)));
  const parts = [...[...collections.values()].map(writtenCollection), ...drafts.map(writtenIntake)];
  const names = [...new Set(['type Accepted', ...drafts.flatMap(namesIn), ...(collections.size > 0 ? ['collection'] : [])])].filter(
    (name) => !collections.has(name),
  );
  for (const { columns } of collections.values()) names.push(...Object.values(columns).filter((kind) => !names.includes(kind)));
  const sorted = names.sort((a, b) => bare(a).localeCompare(bare(b), 'en'));
  const flat = `import { ${sorted.join(', ')} } from 'jestril';`;
  const imports = flat.length <= WIDTH ? flat : `import {\n${sorted.map((name) => `  ${name},\n`).join('')}} from 'jestril';`;
  return `${[imports, ...parts].join('\n\n')}\n`;
}

function bare(name: string): string {
  return name.replace('type ', '');
}

/** The constant that an intake is exported as. */
export function constantOf(name: string): string {
  const [first = 'intake', ...others] = name.split(/[^A-Za-z0-9]+/).filter(Boolean);
  const joined =
    first.charAt(0).toLowerCase() + first.slice(1) + others.map((word) => word.charAt(0).toUpperCase() + word.slice(1)).join('');
  return RESERVED.has(joined) || /^\d/.test(joined) ? `${joined}Intake`.replace(/^\d/, 'intake$&') : joined;
}

/** What a module cannot name a constant, besides what it imports. */
const RESERVED = new Set([
  ...Object.keys(library),
  ...'break case catch class const continue debugger default delete do else enum export extends false finally for function if import in'.split(
    ' ',
  ),
  ...'instanceof new null return super switch this throw true try typeof var void while with yield let static await async'.split(' '),
]);

function writtenCollection({ constant, name, columns, key }: CollectionDraft): string {
  const kinds = Object.fromEntries(Object.entries(columns).map(([column, kind]) => [column, new Name(kind)]));
  const args = [quoted(name), written(kinds, 0), written({ key: key.length === 1 ? (key[0] as string) : key }, 0)];
  return `export const ${constant} = collection(${args.join(', ')});`;
}

function writtenIntake({ name, fields, rules, refusesStrangers, remarks, collections = [] }: IntakeDraft): string {
  const constant = constantOf(name);
  const more: { [option: string]: Argument } = {};
  const [stored] = collections;
  if (stored) more.storedIn = new Name(stored.constant);
  if (refusesStrangers) more.strangers = 'refuse';
  if (rules.length > 0) more.rules = rules;
  const type = constant.charAt(0).toUpperCase() + constant.slice(1);
  const told = Object.keys(more).length > 0 ? `,\n  ${written(more, 1)}` : '';
  return `${comment(remarks, 0)}export const ${constant} = intake(\n  ${quoted(name)},\n  ${written(fields, 1)}${told},\n);
export interface ${type} extends Accepted<typeof ${constant}> {}`;
}

/** The names that a draft calls. */
function namesIn(draft: IntakeDraft): string[] {
  const names = new Set<string>(['intake']);
  const visit = (value: Argument): void => {
    if (isField(value)) {
      names.add(value.kind);
      for (const each of value.args) visit(each);
      for (const { args } of value.modifiers) for (const each of args) visit(each);
    } else if (isCall(value)) {
      names.add(value.call);
      for (const each of value.args) visit(each);
    } else if (Array.isArray(value)) for (const each of value) visit(each);
    else if (typeof value === 'object' && value !== null && !(value instanceof RegExp))
      for (const each of Object.values(value)) visit(each);
  };
  visit(draft.fields);
  for (const each of draft.rules) visit(each);
  return [...names];
}

/** One line where it fits, and otherwise one for each part. */
function written(value: Argument, depth: number): string {
  if (hasRemarks(value)) return broken(value, depth);
  const flat = flatOf(value);
  return flat.length + depth * 2 <= WIDTH - 12 ? flat : broken(value, depth);
}

function flatOf(value: Argument): string {
  if (isField(value))
    return `${value.kind}(${[quoted(value.label), ...value.args.map(flatOf)].join(', ')})${value.modifiers.map(modifier).join('')}`;
  if (isCall(value)) return flatCall(value);
  if (Array.isArray(value)) return `[${value.map(flatOf).join(', ')}]`;
  if (value instanceof RegExp) return String(value);
  if (value instanceof Name) return value.name;
  if (typeof value === 'string') return quoted(value);
  if (typeof value === 'object' && value !== null) {
    const members = Object.entries(value).map(([key, inner]) => `${property(key)}: ${flatOf(inner)}`);
    return members.length === 0 ? '{}' : `{ ${members.join(', ')} }`;
  }
  return String(value);
}

function broken(value: Argument, depth: number): string {
  const inner = '  '.repeat(depth + 1);
  const outer = '  '.repeat(depth);
  const lines = (parts: readonly string[]) => parts.map((part) => `${inner}${part},\n`).join('');
  if (isField(value)) {
    const args = [quoted(value.label), ...value.args.map((each) => written(each, depth + 1))];
    return `${value.kind}(\n${lines(args)}${outer})${value.modifiers.map(modifier).join('')}`;
  }
  if (isCall(value)) return `${value.call}(\n${lines(value.args.map((each) => written(each, depth + 1)))}${outer})`;
  if (Array.isArray(value)) return `[\n${lines(value.map((each) => written(each, depth + 1)))}${outer}]`;
  if (typeof value === 'object' && value !== null && !(value instanceof RegExp)) {
    const members = Object.entries(value).map(
      ([key, each]) => `${isField(each) ? comment(each.remarks, depth + 1) : ''}${inner}${property(key)}: ${written(each, depth + 1)},\n`,
    );
    return `{\n${members.join('')}${outer}}`;
  }
  return flatOf(value);
}

function flatCall({ call, args }: Call): string {
  return `${call}(${args.map(flatOf).join(', ')})`;
}

function modifier(each: Call): string {
  return `.${flatCall(each)}`;
}

/** Whether something inside has a comment of its own, for which it needs lines. */
function hasRemarks(value: Argument): boolean {
  if (isField(value)) return value.args.some(hasRemarks);
  if (isCall(value)) return value.args.some(hasRemarks);
  if (Array.isArray(value)) return value.some(hasRemarks);
  if (typeof value === 'object' && value !== null && !(value instanceof RegExp))
    return Object.values(value).some((each) => (isField(each) && each.remarks.length > 0) || hasRemarks(each));
  return false;
}

function comment(remarks: readonly string[], depth: number): string {
  const indent = '  '.repeat(depth);
  return remarks.map((remark) => `${indent}// ${remark.replaceAll(/\s+/g, ' ')}\n`).join('');
}

/** The name of a member in an object literal. */
export function property(key: string): string {
  return /^[A-Za-z_$][\w$]*$/.test(key) ? key : quoted(key);
}

/** A text in single quotes. */
export function quoted(value: string): string {
  const escaped = JSON.stringify(value).slice(1, -1).replaceAll('\\"', '"').replaceAll("'", "\\'");
  return `'${escaped.replaceAll('\u2028', '\\u2028').replaceAll('\u2029', '\\u2029')}'`;
}
