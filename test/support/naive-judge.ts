import { isObject } from './random-data.ts';
import { BOUNDS, type Described, type Description, type FieldDescription, type UseDescription } from './random-intake.ts';

// Reads a described intake by its laws and as plainly as can be, field by field and rule by rule, without any of the
// engine's means. What it finds is what the engine has to find.

/** What stands in a field. */
type Node =
  | { readonly is: 'absent' | 'bad' | 'unknown' }
  | { readonly is: 'value'; readonly value: string | number }
  | { readonly is: 'group'; readonly fields: Nodes }
  | { readonly is: 'shape'; readonly tag: string; readonly fields: Nodes }
  | {
      readonly is: 'entries';
      readonly keys: readonly string[];
      readonly entries: readonly Nodes[];
      readonly isNamed: boolean;
    };
interface Nodes {
  [name: string]: Node;
}

const ABSENT: Node = { is: 'absent' };
const BAD: Node = { is: 'bad' };
const UNKNOWN: Node = { is: 'unknown' };

export interface Expected {
  /** `use-or-rule@path /pointers`, sorted. */
  readonly findings: readonly string[];
  readonly isUndecided: boolean;
}

export function expectedOfJudge(description: Description, submission: unknown, occasion = 'create'): Expected {
  return new Reader(description, occasion).judge(submission);
}

export function expectedOfAmend(description: Description, stored: unknown, change: unknown, whole = false): Expected {
  return new Reader(description, 'amend').amend(stored, change, whole);
}

class Reader {
  readonly #found: string[] = [];
  readonly #description: Description;
  readonly #occasion: string;
  /** Of a change: what each node of entries comes from; a node that is not here is new. */
  readonly #before = new Map<Nodes, Nodes>();
  #isAmend = false;
  /** The change takes the place of what is stored. */
  #isWhole = false;
  #isUndecided = false;
  #root: Nodes = {};

  constructor(description: Description, occasion: string) {
    this.#description = description;
    this.#occasion = occasion;
  }

  judge(submission: unknown): Expected {
    this.#root = this.#readAll(this.#description.fields, submission as object, '');
    this.#judgeAll(this.#description.fields, this.#root, undefined, '', '', [this.#root]);
    return this.#finish();
  }

  amend(stored: unknown, change: unknown, whole: boolean): Expected {
    this.#isAmend = true;
    this.#isWhole = whole;
    const before = storedAll(this.#description.fields, stored as object, false);
    this.#root = this.#mergeAll(this.#description.fields, before, stored, change as object, '');
    this.#before.set(this.#root, before);
    this.#judgeAll(this.#description.fields, this.#root, before, '', '', [this.#root]);
    return this.#finish();
  }

  #finish(): Expected {
    for (const use of this.#description.uses) this.#use(use);
    return { findings: [...new Set(this.#found)].sort(), isUndecided: this.#isUndecided && this.#found.length === 0 };
  }

  // ---- presence and kind of what is sent

  #readAll(fields: Described, raw: object, at: string): Nodes {
    return Object.fromEntries(
      Object.entries(fields).map(([name, field]) => [
        name,
        this.#read(field, Object.hasOwn(raw, name) ? (raw as Nodes)[name] : undefined, `${at}/${name}`),
      ]),
    );
  }

  #bad(rule: string, at: string): Node {
    this.#found.push(`${rule} ${at}`);
    return BAD;
  }

  #read(field: FieldDescription, raw: unknown, at: string): Node {
    if (raw === undefined || raw === null) {
      if (field.presence !== 'filled') return ABSENT;
      if ('each' in field) return { is: 'entries', keys: [], entries: [], isNamed: field.kind === 'table' };
      return { is: 'value', value: field.kind === 'text' ? 'xy' : 2 };
    }
    if (field.kind === 'text') return typeof raw === 'string' ? { is: 'value', value: raw } : this.#bad('readable', at);
    if (field.kind === 'whole') return Number.isInteger(raw) ? { is: 'value', value: raw as number } : this.#bad('readable', at);
    if ('fields' in field) return isObject(raw) ? { is: 'group', fields: this.#readAll(field.fields, raw, at) } : this.#bad('readable', at);
    if ('each' in field) {
      const isNamed = field.kind === 'table';
      if (isNamed ? !isObject(raw) : !Array.isArray(raw)) return this.#bad('readable', at);
      const keys = Object.keys(raw as object);
      return { is: 'entries', keys, isNamed, entries: keys.map((key) => this.#readEntry(field.each, (raw as Nodes)[key], `${at}/${key}`)) };
    }
    if (!isObject(raw)) return this.#bad('readable', at);
    const tag = Object.hasOwn(raw, 'is') ? raw.is : undefined;
    const inner = typeof tag === 'string' && 'shapes' in field && Object.hasOwn(field.shapes, tag) ? field.shapes[tag] : undefined;
    if (!inner) return this.#bad('tag', `${at}/is`);
    return { is: 'shape', tag: tag as string, fields: this.#readAll(inner, raw, at) };
  }

  /** An entry is a group: missing or not to be read as one, it is marked whole. */
  #readEntry(each: Described, raw: unknown, at: string): Nodes {
    if (isObject(raw)) return this.#readAll(each, raw, at);
    this.#found.push(`${raw === undefined || raw === null ? 'needed' : 'readable'} ${at}`);
    return Object.fromEntries([['', BAD], ...Object.keys(each).map((name) => [name, BAD])]) as Nodes;
  }

  // ---- a change put into what is stored (RFC 7396)

  #mergeAll(fields: Described, before: Nodes, stored: unknown, change: object, at: string, isNew = false): Nodes {
    const known = isObject(stored) ? stored : {};
    return Object.fromEntries(
      Object.entries(fields).map(([name, field]) => [
        name,
        this.#merge(
          field,
          before[name] as Node,
          known[name],
          Object.hasOwn(change, name) ? (change as Nodes)[name] : undefined,
          `${at}/${name}`,
          isNew,
        ),
      ]),
    );
  }

  #merge(field: FieldDescription, was: Node, stored: unknown, raw: unknown, at: string, isNew: boolean): Node {
    if (raw === undefined) {
      if (field.leftOut && !isNew) return ABSENT;
      return this.#isWhole || (isNew && was.is === 'absent') ? this.#read(field, raw, at) : this.#kept(was);
    }
    if (raw === null || !isObject(raw)) return this.#paired(this.#read(field, raw, at), was, field);
    if ('fields' in field) {
      const inside = was.is === 'group' ? was.fields : filledWith(field.fields, was.is === 'unknown' ? UNKNOWN : ABSENT);
      return { is: 'group', fields: this.#mergeAll(field.fields, inside, stored, raw, at, was.is === 'absent') };
    }
    if (field.kind === 'table' && 'each' in field) {
      if (was.is === 'unknown' && !this.#isWhole) return this.#unknown();
      const earlier = was.is === 'entries' ? was : { keys: [] as string[], entries: [] as Nodes[] };
      const all = this.#isWhole ? Object.keys(raw) : [...new Set([...earlier.keys, ...Object.keys(raw)])];
      const keys = all.filter((key) => this.#isWhole || raw[key] !== null);
      const entries = keys.map((key) => {
        const from = earlier.entries[earlier.keys.indexOf(key)];
        const sent = raw[key];
        if (sent === undefined) return this.#keptEntry(from as Nodes);
        if (!from || !isObject(sent)) {
          const read = this.#readEntry(field.each, sent, `${at}/${key}`);
          if (from) this.#before.set(read, from);
          return read;
        }
        const inside = this.#mergeAll(field.each, from, (stored as { [key: string]: unknown })[key], sent, `${at}/${key}`);
        this.#before.set(inside, from);
        return inside;
      });
      return { is: 'entries', keys, isNamed: true, entries };
    }
    if (!('shapes' in field)) return this.#paired(this.#read(field, raw, at), was, field);
    const tag = Object.hasOwn(raw, 'is') ? raw.is : was.is === 'shape' && !this.#isWhole ? was.tag : undefined;
    if (!this.#isWhole && was.is === 'unknown' && !Object.hasOwn(raw, 'is')) return this.#unknown();
    if (typeof tag !== 'string' || !Object.hasOwn(field.shapes, tag)) return this.#bad('tag', `${at}/is`);
    const inner = field.shapes[tag] as Described;
    if (was.is === 'shape' && was.tag === tag) return { is: 'shape', tag, fields: this.#mergeAll(inner, was.fields, stored, raw, at) };
    // Another shape: members of the same names stay, where it can read them.
    const other = was.is === 'unknown' ? filledWith(inner, UNKNOWN) : storedAll(inner, isObject(stored) ? stored : {}, true);
    const there = was.is === 'unknown' ? other : known(other);
    return { is: 'shape', tag, fields: this.#mergeAll(inner, there, stored, raw, at, true) };
  }

  #unknown(): Node {
    this.#isUndecided = true;
    return BAD;
  }

  /** The same, with entries that know where they come from. */
  #kept(was: Node): Node {
    if (was.is === 'group') return { ...was, fields: this.#keptFields(was.fields) };
    if (was.is === 'shape') return { ...was, fields: this.#keptFields(was.fields) };
    return was.is === 'entries' ? { ...was, entries: was.entries.map((entry) => this.#keptEntry(entry)) } : was;
  }
  #keptFields(fields: Nodes): Nodes {
    return Object.fromEntries(Object.entries(fields).map(([name, node]) => [name, this.#kept(node)]));
  }
  #keptEntry(from: Nodes): Nodes {
    const entry = this.#keptFields(from);
    this.#before.set(entry, from);
    return entry;
  }

  /**
   * Entries of a table that was sent again come from those of the same name; of a list from those that are the same, else from those at the
   * same place.
   */
  #paired(node: Node, was: Node, field: FieldDescription): Node {
    if (node.is === 'group' && 'fields' in field && was.is === 'group') this.#pairedAll(field.fields, node.fields, was.fields);
    if (node.is === 'shape' && 'shapes' in field && was.is === 'shape' && was.tag === node.tag)
      this.#pairedAll(field.shapes[node.tag] as Described, node.fields, was.fields);
    if (node.is !== 'entries' || was.is !== 'entries' || !('each' in field)) return node;
    const { each } = field;
    if (node.isNamed) {
      for (const [index, key] of node.keys.entries()) {
        const from = was.entries[was.keys.indexOf(key)];
        if (!from) continue;
        this.#before.set(node.entries[index] as Nodes, from);
        this.#pairedAll(each, node.entries[index] as Nodes, from);
      }
      return node;
    }
    const free = new Set(was.entries.keys());
    const left = new Set(node.entries.keys());
    const pair = (index: number, from: number) => {
      this.#before.set(node.entries[index] as Nodes, was.entries[from] as Nodes);
      this.#pairedAll(each, node.entries[index] as Nodes, was.entries[from] as Nodes);
      free.delete(from);
      left.delete(index);
    };
    const isSame = (index: number, from: number) =>
      free.has(from) && areSame(kept(node.entries[index] as Nodes, each), kept(was.entries[from] as Nodes, each));
    for (const index of [...left]) if (isSame(index, index)) pair(index, index);
    for (const index of [...left]) {
      const from = [...free].find((candidate) => isSame(index, candidate));
      if (from !== undefined) pair(index, from);
    }
    for (const index of [...left]) if (free.has(index)) pair(index, index);
    return node;
  }

  #pairedAll(fields: Described, nodes: Nodes, was: Nodes): void {
    for (const [name, field] of Object.entries(fields)) if (nodes[name] && was[name]) this.#paired(nodes[name], was[name], field);
  }

  // ---- presence and value rules; what is as it was is excused

  #judgeAll(fields: Described, nodes: Nodes, before: Nodes | undefined, at: string, path: string, around: readonly Nodes[]): void {
    for (const [name, field] of Object.entries(fields)) this.#judge(field, nodes, name, before, `${at}/${name}`, `${path}${name}`, around);
  }

  #judge(
    field: FieldDescription,
    home: Nodes,
    name: string,
    before: Nodes | undefined,
    at: string,
    path: string,
    around: readonly Nodes[],
  ): void {
    const node = home[name] as Node;
    const was = before?.[name];
    if (node.is === 'bad' || node.is === 'unknown') return;
    const isSame = was !== undefined && !field.leftOut && areSame(node, was);
    if (node.is === 'absent') {
      if (field.presence !== 'needed' || isSame) return;
      if (this.#isAmend && field.leftOut && !this.#isConfirmed(path, around)) return;
      home[name] = this.#bad('needed', at);
      if ('fields' in field) home[name] = BAD;
      return;
    }
    if (node.is === 'value') {
      if (isSame) return;
      const { value } = node;
      if (typeof value === 'string' && field.presence === 'needed' && value.trim() === '') home[name] = this.#bad('blank', at);
      else if (
        'rule' in field &&
        field.rule &&
        (typeof value === 'string' ? [...value].length > BOUNDS.longest : value < BOUNDS.least || value > BOUNDS.most)
      )
        home[name] = this.#bad(typeof value === 'string' ? 'length' : 'between', at);
      return;
    }
    if (node.is === 'group' && 'fields' in field)
      this.#judgeAll(
        field.fields,
        node.fields,
        insideOf(was, node) ?? (was?.is === 'unknown' ? filledWith(field.fields, UNKNOWN) : undefined),
        at,
        `${path}.`,
        around,
      );
    if (node.is === 'shape' && 'shapes' in field)
      this.#judgeAll(field.shapes[node.tag] as Described, node.fields, insideOf(was, node), at, `${path}.${node.tag}.`, around);
    if (node.is === 'entries' && 'each' in field) {
      for (const [index, entry] of node.entries.entries())
        if (!('' in entry))
          this.#judgeAll(field.each, entry, this.#before.get(entry), `${at}/${node.keys[index]}`, `${path}.*.`, [...around, entry]);
    }
  }

  /** Whether a left-out field is needed again: some use reads it beside something that has changed. */
  #isConfirmed(leftOut: string, around: readonly Nodes[]): boolean {
    const isIt = (path: string) => path === leftOut;
    return this.#description.uses.some((use) => {
      const all = [...use.paths, ...(use.when ? [use.when.path] : [])];
      if (!all.some(isIt)) return false;
      const from = use.is === 'total' ? [this.#root] : around;
      return all.some((path) => !isIt(path) && this.#isChanged(path, from));
    });
  }

  // ---- rules between fields

  #use(use: UseDescription): void {
    if (use.on && use.on !== this.#occasion) return;
    if (use.is === 'rises')
      return this.#rises(use, this.#description.fields, this.#root, this.#before.get(this.#root), (use.paths[0] as string).split('.'), '');
    const scope = use.is === 'total' ? undefined : use.paths.find((path) => path.includes('*'));
    if (scope === undefined) return this.#case(use, [this.#root], '');
    const list = scope.slice(0, scope.indexOf('.*'));
    const node = this.#at(list, [this.#root]);
    if (node.is === 'unknown') {
      if (
        !this.#isAmend ||
        use.on ||
        [...use.paths, ...(use.when ? [use.when.path] : [])].some((path) => this.#isChanged(path, [this.#root]))
      )
        this.#isUndecided = true;
      return;
    }
    if (node.is !== 'entries') return;
    for (const [index, entry] of node.entries.entries()) this.#case(use, [this.#root, entry], node.keys[index] as string);
  }

  /** Down to a number through whatever stands around it, beside what was there. */
  #rises(
    use: UseDescription,
    fields: Described,
    nodes: Nodes,
    was: Nodes | undefined,
    [name, ...rest]: readonly string[],
    at: string,
  ): void {
    const field = fields[name as string] as FieldDescription;
    const [now, then, here] = [nodes[name as string] as Node, was?.[name as string], `${at}/${name}`];
    if (now.is === 'group' && 'fields' in field) {
      const before = insideOf(then, now) ?? (then?.is === 'unknown' ? filledWith(field.fields, UNKNOWN) : undefined);
      return this.#rises(use, field.fields, now.fields, before, rest, here);
    }
    if (now.is === 'shape' && 'shapes' in field) {
      const [tag, ...inner] = rest;
      const shape = field.shapes[now.tag] as Described;
      const before = insideOf(then, now) ?? (then?.is === 'unknown' ? filledWith(shape, UNKNOWN) : undefined);
      if (tag === now.tag) this.#rises(use, shape, now.fields, before, inner, here);
      return;
    }
    if (now.is === 'entries' && 'each' in field) {
      for (const [index, entry] of now.entries.entries())
        if (!('' in entry)) this.#rises(use, field.each, entry, this.#before.get(entry), rest.slice(1), `${here}/${now.keys[index]}`);
      return;
    }
    if (rest.length > 0 || !then || now.is === 'unknown' || areSame(now, then)) return;
    if (then.is === 'unknown') return this.#leaveOpen();
    if (then.is === 'value' && now.is === 'value' && now.value < then.value) this.#found.push(`${use.name} ${here}`);
  }

  #case(use: UseDescription, around: readonly Nodes[], key: string): void {
    const reads = [...use.paths, ...(use.when ? [use.when.path] : [])];
    if (this.#isAmend && !use.on && !reads.some((path) => this.#isChanged(path, around))) return;
    // Nothing is missing where all of it would stand in something that is not there.
    if (use.is !== 'total' && use.paths.every((path) => this.#isHomeless(path, around))) return;
    if (use.is === 'total' && this.#isHomeless((use.paths[0] as string).split('.*')[0] as string, around)) return;
    const isPresence = use.is === 'needed' || use.is === 'absent' || use.is === 'some';
    if (use.is === 'total') {
      const all = this.#all(use.paths[0] as string);
      if (all === 'absent' || all === 'bad') return;
      if (all === 'unknown') return this.#leaveOpen();
      const guard = this.#guard(use, around);
      if (guard === 'unknown') return this.#leaveOpen();
      if (guard && all.reduce((sum, value) => sum + value, 0) > 6) this.#fail(use, around, key);
      return;
    }
    const nodes = use.paths.map((path) => this.#at(path, around));
    if (nodes.some(({ is }) => is === 'bad')) {
      // The first role that cannot be read decides.
      const first = nodes.find(({ is }) => is === 'bad' || is === 'unknown');
      if (first?.is === 'unknown') this.#leaveOpen();
      return;
    }
    if (nodes.some(({ is }) => is === 'unknown')) return this.#leaveOpen();
    if (use.is === 'less' && nodes.some(({ is }) => is === 'absent')) return;
    const guard = this.#guard(use, around);
    if (guard === 'unknown') return this.#leaveOpen();
    if (!guard) return;
    const values = nodes.map((node) => (node.is === 'value' ? node.value : undefined));
    const there = values.filter((value) => value !== undefined).length;
    const [first, second] = values;
    const holds =
      use.is === 'less'
        ? (first as number) <= (second as number)
        : use.is === 'alike'
          ? first === second
          : isPresence && (use.is === 'absent' ? there === 0 : there > 0);
    if (!holds) this.#fail(use, around, key);
  }

  #leaveOpen(): void {
    this.#isUndecided = true;
  }

  #guard({ when }: UseDescription, around: readonly Nodes[]): boolean | 'unknown' {
    if (!when) return true;
    const node = this.#at(when.path, around);
    return node.is === 'unknown' ? 'unknown' : node.is === 'value' && node.value === when.is;
  }

  #fail(use: UseDescription, _around: readonly Nodes[], key: string): void {
    const pointers =
      use.is === 'total'
        ? [pointerOf(this.#description, use.paths[0] as string, '')]
        : use.paths.map((path) => pointerOf(this.#description, path, key));
    // Presence under two conditions is one cause.
    this.#found.push(`${use.is === 'needed' || use.is === 'absent' ? use.is : use.name} ${[...new Set(pointers)].join(' ')}`);
  }

  /** What stands at a path, seen from the entry at hand. */
  #at(path: string, around: readonly Nodes[]): Node {
    return walk(this.#description.fields, path, around, (node) => node) ?? ABSENT;
  }

  #isHomeless(path: string, around: readonly Nodes[]): boolean {
    return walk(this.#description.fields, path, around, () => UNKNOWN) === undefined;
  }

  /** All whole numbers of the entries of a list. */
  #all(path: string): readonly number[] | 'absent' | 'bad' | 'unknown' {
    const [list, rest] = path.split('.*.') as [string, string];
    const node = this.#at(list, [this.#root]);
    if (node.is !== 'entries') return node.is === 'bad' || node.is === 'unknown' ? node.is : 'absent';
    const values: number[] = [];
    for (const entry of node.entries) {
      const inside = entry[rest] as Node;
      if (inside.is === 'bad' || inside.is === 'unknown') return inside.is;
      if (inside.is === 'value') values.push(inside.value as number);
    }
    return values;
  }

  #isChanged(path: string, around: readonly Nodes[]): boolean {
    const [list, rest] = path.split('.*.') as [string, string | undefined];
    const before = around.map((nodes) => this.#before.get(nodes));
    if (rest !== undefined && around.length === 1) {
      // All entries together.
      const [now, then] = [this.#trail(list, around), this.#trail(list, before)];
      if (then?.node.is === 'unknown') return now?.node.is !== 'unknown';
      if (!then || !now || now.holders !== then.holders) return true;
      const [a, b] = [now.node, then.node];
      if (a.is !== 'entries' || b.is !== 'entries') return !(a.is === b.is && a.is !== 'bad');
      return !(
        a.entries.length === b.entries.length &&
        a.entries.every((entry, index) => areSame(entry[rest] as Node, b.entries[index]?.[rest] as Node))
      );
    }
    const now = this.#trail(path, around);
    const then = this.#trail(path, before);
    if (then?.node.is === 'unknown') return now?.node.is !== 'unknown';
    return !(
      now &&
      then &&
      (now.holders === then.holders ||
        (then.holders.endsWith('unknown') && now.holders.startsWith(then.holders.slice(0, -'unknown'.length)))) &&
      areSame(now.node, then.node)
    );
  }

  /** What stands at a path, and what there is around it. */
  #trail(path: string, around: readonly (Nodes | undefined)[]): { readonly node: Node; readonly holders: string } | undefined {
    const isInner = path.includes('.*.');
    const from = isInner ? around[1] : around[0];
    if (!from) return undefined;
    const holders: string[] = [];
    const node = walk(
      this.#description.fields,
      path,
      isInner ? [from, from] : [from],
      (found) => found,
      (holder) => holders.push(holder),
    );
    return { node: node ?? ABSENT, holders: holders.join() };
  }
}

/** Follows a path through groups and shapes; `undefined` where one of them is not there. */
function walk(
  fields: Described,
  path: string,
  around: readonly Nodes[],
  give: (node: Node) => Node,
  hold: (holder: string) => void = () => undefined,
): Node | undefined {
  const [, inner] = path.split('.*.') as [string, string | undefined];
  if (inner !== undefined) return around[1]?.[inner] && give(around[1][inner] as Node);
  let inside: Nodes | undefined = around[0];
  let described: Described = fields;
  const names = path.split('.');
  for (const [index, name] of names.entries()) {
    const field = described[name] as FieldDescription;
    const node = inside?.[name] as Node;
    if (index === names.length - 1) return give(node);
    if (node.is === 'unknown' && isLeftOut(described, names.slice(index))) {
      hold('unknown');
      return ABSENT;
    }
    if (node.is === 'bad' || node.is === 'unknown') return node;
    const shape = names[index + 1] as string;
    // Another shape is not there, as little as nothing is.
    const isThere = 'shapes' in field ? node.is === 'shape' && node.tag === shape : node.is === 'group';
    hold(isThere ? 'there' : 'gone');
    if (!isThere) return undefined;
    if ('fields' in field && node.is === 'group') {
      described = field.fields;
      inside = node.fields;
    } else if ('shapes' in field && node.is === 'shape') {
      described = { [shape]: { kind: 'group', fields: field.shapes[shape], presence: 'needed', leftOut: false } as never };
      inside = { [shape]: { is: 'group', fields: node.fields } };
    }
  }
  return undefined;
}

/** Whether the field at the end of a path is left out of the value, so that nobody has to have loaded it. */
function isLeftOut(fields: Described, [name, ...rest]: readonly string[]): boolean {
  const field = fields[name as string] as FieldDescription;
  if (rest.length === 0) return field.leftOut;
  if ('shapes' in field) return isLeftOut(field.shapes[rest[0] as string] as Described, rest.slice(1));
  return 'fields' in field && isLeftOut(field.fields, rest);
}

/** What was read of a stored record; what it lacks was not loaded, unless the record is complete. */
function storedAll(fields: Described, stored: object, isComplete: boolean): Nodes {
  return Object.fromEntries(
    Object.entries(fields).map(([name, field]) => {
      const raw = Object.hasOwn(stored, name) ? (stored as Nodes)[name] : undefined;
      return [name, field.leftOut ? ABSENT : storedNode(field, raw, isComplete)];
    }),
  );
}

function storedNode(field: FieldDescription, raw: unknown, isComplete: boolean): Node {
  if (raw === undefined) return isComplete ? ABSENT : UNKNOWN;
  if (raw === null) return ABSENT;
  if (field.kind === 'text') return typeof raw === 'string' ? { is: 'value', value: raw } : UNKNOWN;
  if (field.kind === 'whole') return Number.isInteger(raw) ? { is: 'value', value: raw as number } : UNKNOWN;
  if ('fields' in field) return isObject(raw) ? { is: 'group', fields: storedAll(field.fields, raw, isComplete) } : UNKNOWN;
  if ('each' in field) {
    if (field.kind === 'table' ? !isObject(raw) : !Array.isArray(raw)) return UNKNOWN;
    const keys = Object.keys(raw as object);
    return {
      is: 'entries',
      keys,
      isNamed: field.kind === 'table',
      entries: keys.map((key) => storedAll(field.each, (raw as never)[key], true)),
    };
  }
  const tag = isObject(raw) ? raw.is : undefined;
  if (typeof tag !== 'string' || !('shapes' in field) || !Object.hasOwn(field.shapes, tag)) return UNKNOWN;
  return { is: 'shape', tag, fields: storedAll(field.shapes[tag] as Described, raw as object, isComplete) };
}

function filledWith(fields: Described, node: Node): Nodes {
  return Object.fromEntries(Object.entries(fields).map(([name, field]) => [name, field.leftOut ? ABSENT : node]));
}

function insideOf(was: Node | undefined, node: Node): Nodes | undefined {
  if (was?.is === 'group' && node.is === 'group') return was.fields;
  return was?.is === 'shape' && node.is === 'shape' && was.tag === node.tag ? was.fields : undefined;
}

/** Two nodes that hold the same; what failed is the same as nothing. */
function areSame(a: Node | Nodes, b: Node | Nodes): boolean {
  return !JSON.stringify(a).includes('"is":"bad"') && JSON.stringify(bare(a)) === JSON.stringify(bare(b));
}

function bare(node: unknown): unknown {
  if (Array.isArray(node)) return node.map(bare);
  if (!isObject(node)) return node;
  return Object.fromEntries(Object.entries(node).map(([key, value]) => [key, bare(value)]));
}

/** What is known of fields: what could not be read is not there. */
function known(nodes: Nodes): Nodes {
  return Object.fromEntries(
    Object.entries(nodes).map(([name, node]) => {
      if (node.is === 'unknown') return [name, ABSENT];
      return [name, node.is === 'group' || node.is === 'shape' ? { ...node, fields: known(node.fields) } : node];
    }),
  );
}

/** What an entry has besides what is left out of the value, all the way down. */
function kept(entry: Nodes, each: Described): Nodes {
  return Object.fromEntries(
    Object.entries(entry).flatMap(([name, node]) => {
      const field = each[name];
      return field?.leftOut ? [] : [[name, field ? keptNode(node, field) : node]];
    }),
  );
}

function keptNode(node: Node, field: FieldDescription): Node {
  if (node.is === 'group' && 'fields' in field) return { ...node, fields: kept(node.fields, field.fields) };
  if (node.is === 'shape' && 'shapes' in field) return { ...node, fields: kept(node.fields, field.shapes[node.tag] as Described) };
  if (node.is === 'entries' && 'each' in field) return { ...node, entries: node.entries.map((entry) => kept(entry, field.each)) };
  return node;
}

function pointerOf({ fields }: Description, path: string, key: string): string {
  if (path.includes('.*.')) {
    const [list, rest] = path.split('.*.') as [string, string];
    return key === '' ? pointerOf({ fields, uses: [] }, list, key) : `${pointerOf({ fields, uses: [] }, list, key)}/${key}/${rest}`;
  }
  return `/${withoutShapes(fields, path.split('.')).join('/')}`;
}

/** The name of a shape stands in a path, and not in a pointer. */
function withoutShapes(fields: Described, [name, ...rest]: readonly string[]): string[] {
  if (name === undefined) return [];
  const field = fields[name] as FieldDescription;
  if ('shapes' in field && rest[0] !== undefined) return [name, ...withoutShapes(field.shapes[rest[0]] as Described, rest.slice(1))];
  return [name, ...('fields' in field ? withoutShapes(field.fields, rest) : rest)];
}
