import { useId, useState } from 'react';
import type { ShownField } from '../../wire/shown.ts';
import type { Mark } from './editor.tsx';
import { pointerOf, valueAt, withValue } from './pointers.ts';

/** Entries of a list that the form shows; more are edited as text. */
const MOST_ENTRIES = 40;

interface FormProps {
  readonly fields: readonly ShownField[];
  readonly value: unknown;
  readonly marks: readonly Mark[];
  onChange(value: unknown): void;
}

/** A form made from an intake; it edits the same JSON value as the text. */
export function Form({ fields, value, marks, onChange }: FormProps) {
  const put = (at: readonly string[], next: unknown) => onChange(withValue(value, at, next));
  return (
    <div className="form">
      {fields.map((field) => (
        <Field key={field.key} field={field} at={[field.key]} whole={value} marks={marks} put={put} />
      ))}
    </div>
  );
}

interface FieldProps {
  readonly field: ShownField;
  readonly at: readonly string[];
  readonly whole: unknown;
  readonly marks: readonly Mark[];
  put(at: readonly string[], next: unknown): void;
}

function Field(props: FieldProps) {
  const { field, at, whole, put } = props;
  const value = valueAt(whole, at);
  switch (field.sort) {
    case 'group':
      return (
        <fieldset>
          <legend>{field.label}</legend>
          {(field.inner ?? []).map((inner) => (
            <Field key={inner.key} {...props} field={inner} at={[...at, inner.key]} />
          ))}
        </fieldset>
      );
    case 'list':
      return <List {...props} />;
    case 'shapes': {
      const chosen = (value as { readonly [tag: string]: unknown } | undefined)?.[field.tag as string];
      const shape = field.shapes?.find(({ name }) => name === chosen);
      return (
        <fieldset>
          <legend>{field.label}</legend>
          <label className="field">
            <span>{field.tag}</span>
            <select
              value={shape?.name ?? ''}
              onChange={(event) => put(at, event.target.value === '' ? undefined : { [field.tag as string]: event.target.value })}
            >
              <option value="">(none)</option>
              {(field.shapes ?? []).map(({ name }) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </label>
          {(shape?.fields ?? []).map((inner) => (
            <Field key={inner.key} {...props} field={inner} at={[...at, inner.key]} />
          ))}
        </fieldset>
      );
    }
    default:
      return <Single {...props} value={value} />;
  }
}

function List(props: FieldProps) {
  const { field, at, whole, put } = props;
  const entries = valueAt(whole, at);
  const list = Array.isArray(entries) ? entries : [];
  const item = field.item as ShownField;
  const blank = item.sort === 'group' || item.sort === 'shapes' ? {} : '';
  return (
    <fieldset>
      <legend>{field.label}</legend>
      {list.slice(0, MOST_ENTRIES).map((_, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: an entry has nothing but its place
        <div className="entry" key={index}>
          <Field {...props} field={{ ...item, label: `${item.label} ${index + 1}` }} at={[...at, String(index)]} />
          <button type="button" className="quiet" onClick={() => put([...at, String(index)], undefined)}>
            Take away {item.label} {index + 1}
          </button>
        </div>
      ))}
      {list.length > MOST_ENTRIES && <p className="hint">{list.length - MOST_ENTRIES} more entries; edit them as JSON.</p>}
      <button type="button" className="quiet" onClick={() => put(at, [...list, blank])}>
        Add {item.label}
      </button>
    </fieldset>
  );
}

function Single({ field, at, marks, put, value }: FieldProps & { readonly value: unknown }) {
  const id = useId();
  const pointer = pointerOf(at);
  const found = marks.filter((mark) => mark.pointer === pointer);
  const isWrong = found.some(({ severity }) => severity === 'error');
  const about = { id, 'data-pointer': pointer, 'aria-invalid': isWrong, 'aria-describedby': `${id}-more`, 'aria-required': field.isNeeded };
  const text = value === undefined || value === null ? '' : typeof value === 'object' ? JSON.stringify(value) : String(value);
  // While a number is typed, its text is not yet that of a number: `7.50` would lose its end.
  const [raw, setRaw] = useState<string>();
  const type = (typed: string) => {
    setRaw(typed);
    put(at, typedOf(field, typed));
  };
  return (
    <div className="field">
      <label htmlFor={id}>
        {field.label} {!field.isNeeded && <small>optional</small>}
      </label>
      {field.sort === 'choice' ? (
        <select {...about} value={text} onChange={(event) => type(event.target.value)}>
          <option value="">(none)</option>
          {field.options.map((option) => (
            <option key={option.value} value={option.value}>
              {option.label}
            </option>
          ))}
        </select>
      ) : field.sort === 'flag' ? (
        <select
          {...about}
          value={text}
          onChange={(event) => put(at, event.target.value === '' ? undefined : event.target.value === 'true')}
        >
          <option value="">(not sent)</option>
          <option value="true">yes</option>
          <option value="false">no</option>
        </select>
      ) : field.sort === 'json' || field.sort === 'table' || text.length > 80 ? (
        <textarea {...about} rows={3} value={text} onChange={(event) => type(event.target.value)} />
      ) : (
        <input
          {...about}
          type={field.isSecret ? 'password' : 'text'}
          autoComplete="off"
          inputMode={field.sort === 'number' ? 'decimal' : undefined}
          placeholder={field.sort === 'day' ? '2031-05-01' : undefined}
          value={raw ?? text}
          onChange={(event) => type(event.target.value)}
          onBlur={() => setRaw(undefined)}
        />
      )}
      <div id={`${id}-more`} className="beside">
        {found.length > 0
          ? found.map((mark) => (
              <p key={mark.text} className={mark.severity}>
                {mark.text}
              </p>
            ))
          : field.rules.length > 0 && <p className="hint">Rule: {field.rules[0]}</p>}
      </div>
    </div>
  );
}

/** What a person typed, as JSON would carry it; what cannot be one stays the text that it is. */
function typedOf({ sort, options }: ShownField, raw: string): unknown {
  if (raw === '') return undefined;
  if (sort === 'choice') return options.find(({ value }) => String(value) === raw)?.value ?? raw;
  if (sort === 'number' && /^-?\d+(\.\d+)?$/.test(raw)) return Number(raw);
  if (sort !== 'json' && sort !== 'table') return raw;
  try {
    return JSON.parse(raw);
  } catch {
    return raw;
  }
}
