import { planOf } from '../core/intake.ts';
import { toldOf } from '../core/kinds/told.ts';
import { textIn } from '../core/messages/render.ts';
import { bySort } from '../core/plan/by-sort.ts';
import type { FieldStep, FieldSteps, ListStep, ScalarStep } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import { controlAttributes } from '../forms/control-attributes.ts';
import { fieldText } from '../forms/field-text.ts';

interface FormOptions {
  /** The language of labels. Defaults to `en`. */
  readonly locale?: string;
  /** The moment that relative bounds are worked out from. Defaults to the clock. */
  readonly now?: Date;
  /** Where the form is sent. Defaults to the page itself. */
  readonly action?: string;
}

/** A form for an intake: a label and a control for every field, with the constraints that a browser knows. */
export function htmlFormOf(intake: { readonly name: string }, options: FormOptions = {}): string {
  const plan = planOf(intake);
  let hasFiles = false;
  walkSteps(plan.fields, ({ kind }) => {
    hasFiles ||= toldOf(kind)?.isPart === true;
  });
  const action = options.action === undefined ? '' : ` action="${escaped(options.action)}"`;
  const body = new Writer(intake, options).fields(plan.fields, '', 1);
  return `<form method="post"${action}${hasFiles ? ' enctype="multipart/form-data"' : ''}>\n${body}\n  <button>Send</button>\n</form>\n`;
}

class Writer {
  readonly #intake: { readonly name: string };
  readonly #locale: string;
  readonly #now: Date;

  constructor(intake: { readonly name: string }, { locale = 'en', now = new Date() }: FormOptions) {
    this.#intake = intake;
    this.#locale = locale;
    this.#now = now;
  }

  fields({ steps }: FieldSteps, name: string, depth: number): string {
    return steps.map((step) => this.#field(step, name === '' ? step.key : `${name}.${step.key}`, depth)).join('\n');
  }

  #field(step: FieldStep, name: string, depth: number): string {
    const indent = '  '.repeat(depth);
    const legend = `${indent}  <legend>${escaped(textIn(step.place.label, this.#locale))}</legend>`;
    const set = (inside: string) => `${indent}<fieldset>\n${legend}\n${inside}\n${indent}</fieldset>`;
    // One entry to begin with; further ones are the same with another number.
    const entry = ({ item }: ListStep) => set(this.#field(item, `${name}.0`, depth + 1));
    return bySort(step, {
      scalar: (scalar) => this.#control(scalar, name, indent),
      group: ({ inner }) => set(this.fields(inner, name, depth + 1)),
      list: entry,
      table: entry,
      shapes: (step) => {
        const { options } = fieldText(this.#intake, pointerOf(`${name}.${step.tag}`), this.#locale);
        const choice = `${indent}  <select name="${escaped(`${name}.${step.tag}`)}" id="${idOf(`${name}.${step.tag}`)}" aria-label="${escaped(textIn(step.place.label, this.#locale))}">${optionsOf(options)}</select>`;
        const shapes = [...step.shapes].map(
          ([shape, fields]) =>
            `${indent}  <div data-shape="${escaped(shape)}">\n${this.fields(fields, name, depth + 2)}\n${indent}  </div>`,
        );
        return set(`${choice}\n${shapes.join('\n')}`);
      },
    });
  }

  #control(step: ScalarStep, name: string, indent: string): string {
    const pointer = pointerOf(name);
    const { label, options } = fieldText(this.#intake, pointer, this.#locale);
    const attributes = controlAttributes(this.#intake, pointer, { now: this.#now });
    const id = idOf(name);
    const { maxlength = 0 } = attributes;
    const written = Object.entries(attributes)
      .map(([attribute, value]) => (value === true ? ` ${attribute}` : ` ${attribute}="${escaped(String(value))}"`))
      .join('');
    const filled = step.filledBy && 'value' in step.filledBy && !step.place.isSecret ? step.filledBy.value : undefined;
    const isLong = step.kind.isText === true && maxlength > 200;
    const control =
      options.length > 0
        ? `<select name="${escaped(name)}" id="${id}"${attributes.required ? ' required' : ''}>${optionsOf(options, filled, !step.needed)}</select>`
        : isLong
          ? `<textarea name="${escaped(name)}" id="${id}" maxlength="${maxlength}"${attributes.required ? ' required' : ''}>${escaped(String(filled ?? ''))}</textarea>`
          : `<input name="${escaped(name)}" id="${id}"${written}${filled === undefined ? '' : filled === true ? ' checked' : ` value="${escaped(String(filled))}"`}>`;
    return `${indent}<p>\n${indent}  <label for="${id}">${escaped(label)}</label>\n${indent}  ${control}\n${indent}</p>`;
  }
}

function optionsOf(options: readonly { readonly value: string; readonly label: string }[], filled?: unknown, mayBeEmpty = false): string {
  const all = options.map(
    ({ value, label }) => `<option value="${escaped(value)}"${String(filled) === value ? ' selected' : ''}>${escaped(label)}</option>`,
  );
  return `${mayBeEmpty ? '<option value=""></option>' : ''}${all.join('')}`;
}

function pointerOf(name: string): string {
  return `/${name.replaceAll('.', '/')}`;
}

function idOf(name: string): string {
  return escaped(name.replaceAll('.', '-'));
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
