// The styles and skeletons of numbers, dates and times (ICU: "Number Skeletons"; Unicode TR 35, "Date Field Symbol Table").

export type NumberStyle = Intl.NumberFormatOptions & {
  /** What is multiplied before it is told. */
  readonly scale?: number;
};

const NUMBERS: { readonly [style: string]: NumberStyle } = { integer: { maximumFractionDigits: 0 }, percent: { style: 'percent' } };
const DATES: { readonly [style: string]: Intl.DateTimeFormatOptions } = {
  short: { month: 'numeric', day: 'numeric', year: '2-digit' },
  medium: { month: 'short', day: 'numeric', year: 'numeric' },
  long: { month: 'long', day: 'numeric', year: 'numeric' },
  full: { weekday: 'long', month: 'long', day: 'numeric', year: 'numeric' },
};
const ZONED: Intl.DateTimeFormatOptions = { hour: 'numeric', minute: 'numeric', second: 'numeric', timeZoneName: 'short' };
const TIMES: { readonly [style: string]: Intl.DateTimeFormatOptions } = {
  short: { hour: 'numeric', minute: 'numeric' },
  medium: { hour: 'numeric', minute: 'numeric', second: 'numeric' },
  long: ZONED,
  full: ZONED,
};

/** @throws SyntaxError for a style that is not known */
export function numberOptions(style: string | undefined): NumberStyle {
  if (style === undefined) return {};
  if (!style.startsWith('::')) return NUMBERS[style] ?? unknown(style, NUMBERS);
  return Object.assign({}, ...style.slice(2).trim().split(/\s+/).map(numberPart)) as NumberStyle;
}

function numberPart(stem: string): NumberStyle {
  const [name = '', option = ''] = stem.split('/');
  if (/^\.0*#*$/.test(stem)) {
    const least = stem.split('0').length - 1;
    return { minimumFractionDigits: least, maximumFractionDigits: stem.length - 1 };
  }
  switch (name) {
    case 'currency':
      if (!/^[A-Za-z]{3}$/.test(option)) throw new SyntaxError(`"${option}" is no currency, such as EUR`);
      return { style: 'currency', currency: option };
    case 'measure-unit':
    case 'unit':
      return { style: 'unit', unit: unitIn(option.replace(/^.*?-/, '')) };
    case 'scale':
      return { scale: Number(option) };
    case 'percent':
      return { style: 'percent' };
    case 'compact-short':
    case 'compact-long':
      return { notation: 'compact', compactDisplay: name === 'compact-short' ? 'short' : 'long' };
    case 'group-off':
      return { useGrouping: false };
    case 'sign-always':
      return { signDisplay: 'always' };
    case 'precision-integer':
      return { maximumFractionDigits: 0 };
    default:
      throw new SyntaxError(`the number skeleton "${stem}" is not known`);
  }
}

/** @throws SyntaxError for what is no unit that numbers are told in (ECMA-402, table 2) */
function unitIn(unit: string): string {
  try {
    return new Intl.NumberFormat('en', { style: 'unit', unit }) && unit;
  } catch {
    throw new SyntaxError(`"${unit}" is no unit`);
  }
}

const LENGTHS = ['numeric', '2-digit', 'short', 'long', 'narrow'] as const;
const WEEKDAYS = ['short', 'short', 'short', 'long', 'narrow'] as const;

/** @throws SyntaxError for a style that is not known */
export function dateOptions(type: 'date' | 'time', style: string | undefined): Intl.DateTimeFormatOptions {
  const styles = type === 'date' ? DATES : TIMES;
  if (style === undefined) return type === 'date' ? {} : (TIMES.medium as Intl.DateTimeFormatOptions);
  if (!style.startsWith('::')) return styles[style] ?? unknown(style, styles);
  const fields =
    style
      .slice(2)
      .trim()
      .match(/([A-Za-z])\1*/g) ?? [];
  return Object.assign({}, ...fields.map(dateField)) as Intl.DateTimeFormatOptions;
}

function dateField(field: string): Intl.DateTimeFormatOptions {
  const length = field.length - 1;
  const digits = length === 1 ? '2-digit' : 'numeric';
  switch (field[0]) {
    case 'y':
      return { year: digits };
    case 'M':
    case 'L':
      return { month: LENGTHS[length] ?? 'long' };
    case 'd':
      return { day: digits };
    case 'E':
      return { weekday: WEEKDAYS[length] ?? 'short' };
    case 'j':
      return { hour: digits };
    case 'h':
      return { hour: digits, hourCycle: 'h12' };
    case 'H':
      return { hour: digits, hourCycle: 'h23' };
    case 'm':
      return { minute: digits };
    case 's':
      return { second: digits };
    case 'z':
      return { timeZoneName: length < 3 ? 'short' : 'long' };
    default:
      throw new SyntaxError(`the date field "${field}" is not known`);
  }
}

function unknown(style: string, styles: object): never {
  throw new SyntaxError(`the style "${style}" is not known; there are ${Object.keys(styles).join(', ')}`);
}
