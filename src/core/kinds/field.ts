import { fault } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import type { AnyField, Fields } from '../declared/field.ts';
import { asKind, type Kind, type KindSpec } from '../declared/kind.ts';
import type { FieldSpec, StepSpec } from '../declared/rule.ts';
import { checkText } from '../messages/check.ts';

/** All fields are of this class at run time; the interfaces above say which modifiers each kind offers. */
class FieldNode {
  constructor(readonly spec: FieldSpec) {}
  get kind(): string {
    return this.spec.kind.name;
  }
  get label(): string {
    return this.spec.label;
  }
  get fields(): Fields | undefined {
    return this.spec.fields;
  }
  get item(): AnyField | undefined {
    return this.spec.item;
  }
  get each(): AnyField | undefined {
    return this.spec.each;
  }
  get tag(): string | undefined {
    return this.spec.tag;
  }
  get shapes(): object | undefined {
    return this.spec.shapes;
  }
  secret(): FieldNode {
    return this.#with({ isSecret: true });
  }
  orAbsent(): FieldNode {
    return this.#with({ presence: 'optional' });
  }
  orElse(value: unknown): FieldNode {
    return this.#with({ presence: typeof value === 'function' ? { call: value as () => unknown } : { value } });
  }
  orEmpty(): FieldNode {
    return this.#with({ presence: { empty: true } });
  }
  blankAllowed(): FieldNode {
    if (!this.spec.kind.isText) fault(`"${this.label}" is ${this.spec.kind.name}; only text can be allowed to be blank.`);
    return this.#with({ blankAllowed: true });
  }
  blankRowsDropped(): FieldNode {
    if (!this.spec.item) fault(`"${this.label}" is ${this.spec.kind.name}; only a list has rows.`);
    return this.#with({ dropsBlankRows: true });
  }
  entryLabel(entryLabel: Texts): FieldNode {
    const inside = this.spec.item ?? this.spec.each;
    if (!inside) fault(`"${this.label}" is ${this.spec.kind.name}; only a list or a table has entries.`);
    checkText(entryLabel, `entryLabel of "${this.label}"`, [this.spec.item ? 'number' : 'name']);
    return this.#with({ entryLabel });
  }
  orNull(): FieldNode {
    return this.#with({ nullAllowed: true });
  }
  leftOut(): FieldNode {
    return this.#with({ isLeftOut: true });
  }
  given(): FieldNode {
    return this.#with({ isGiven: true });
  }
  #with(change: Partial<FieldSpec>): FieldNode {
    return new FieldNode({ ...this.spec, ...change });
  }
}

/** Makes the field of a kind; kinds call it and give it their own interface. */
export function makeField(
  kind: KindSpec,
  label: string,
  steps: readonly unknown[],
  inside: Pick<FieldSpec, 'fields' | 'rules' | 'item' | 'each' | 'tag' | 'shapes'> = {},
): never {
  if (typeof label !== 'string' || label === '') fault(`A ${kind.name} field needs a label as its first argument.`);
  return new FieldNode({
    kind,
    label,
    steps: steps as readonly StepSpec[],
    presence: 'needed',
    nullAllowed: false,
    blankAllowed: false,
    isSecret: false,
    isLeftOut: false,
    isGiven: false,
    ...inside,
  }) as never;
}

/** A kind whose fields are made by a label and steps alone. */
export function kindBy<K extends Kind<string, unknown>>(kind: KindSpec): K {
  return asKind(kind, (label: string, ...steps: unknown[]) => makeField(kind, label, steps));
}

export function isField(field: unknown): field is AnyField {
  return field instanceof Object && 'spec' in field && (field.spec as Partial<FieldSpec> | undefined)?.steps !== undefined;
}

/** The run-time description of a field; a fault for what is none, such as a kind that was not called. */
export function specOf(field: AnyField, path: string): FieldSpec {
  const { spec } = (field ?? {}) as unknown as Partial<FieldNode>;
  return spec?.steps ? spec : fault(`"${path}" is not a field; make one with a kind, such as text('Name').`);
}
