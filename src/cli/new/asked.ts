import { confirm, intro, isCancel, outro, select, text } from '@clack/prompts';
import { Misuse } from '../basics/misuse.ts';
import { fieldTypes } from './named-fields.ts';

/** Asks for fields, one after another, until no name is given; as they are written on the command line. */
export async function askedFields(name: string): Promise<string[]> {
  intro(`The fields of ${name}`);
  const fields: string[] = [];
  for (;;) {
    const key = await answered(
      text({
        message: fields.length === 0 ? 'Name of the first field' : 'Name of the next field (none: that is all)',
        placeholder: fields.length === 0 ? 'berth' : '',
        validate: (value = '') => {
          if (value === '') return fields.length === 0 ? 'An intake has one field at least.' : undefined;
          if (!/^[A-Za-z_$][\w$]*$/.test(value)) return 'A name has letters and digits only, such as berthCode.';
          return fields.some((field) => field.replace(/[?:].*$/s, '') === value) ? 'There is one of that name.' : undefined;
        },
      }),
    );
    if (key === undefined || key === '') break;
    const type = await answered(
      select({
        message: `What is ${key}?`,
        options: [
          ...Object.keys(fieldTypes()).map((value) => ({ value, label: value })),
          { value: 'choice', label: 'choice (one of some values)' },
        ],
        maxItems: 10,
      }),
    );
    const options =
      type === 'choice'
        ? await answered(
            text({
              message: 'Its values, with commas between',
              validate: (value = '') => (value.split(',').some((each) => each.trim() !== '') ? undefined : 'Name one value at least.'),
            }),
          )
        : undefined;
    const isNeeded = await answered(confirm({ message: `Is ${key} always needed?`, initialValue: true }));
    const told =
      options === undefined
        ? type
        : options
            .split(',')
            .map((each) => each.trim())
            .filter(Boolean)
            .join('|')
            .replace(/^([^|]*)$/, '$1|');
    fields.push(`${key}${isNeeded ? '' : '?'}:${told}`);
  }
  outro(`${fields.length} fields`);
  return fields;
}

async function answered<T>(answer: Promise<T>): Promise<Exclude<T, symbol>> {
  const value = await answer;
  if (isCancel(value)) throw new Misuse('Nothing was written.');
  return value as Exclude<T, symbol>;
}
