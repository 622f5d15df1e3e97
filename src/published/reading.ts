import { isFault } from '../core/basics/fault.ts';
import { built, builtIntake } from '../drafts/built.ts';
import { type Argument, type Call, call, type FieldDraft, type FieldDrafts } from '../drafts/draft.ts';
import { Gatherer } from './gathered.ts';
import { type Places, type Refused, Unsupported } from './places.ts';

export interface ReadingOptions {
  /** What is read only is not received, and what is written only is not sent. Defaults to `both`. */
  readonly direction?: 'received' | 'sent' | 'both';
  /** Texts that must be there may be blank, as a schema has it. Defaults to true. */
  readonly blanks?: boolean;
  /** Times that something may contain itself. Defaults to 3. */
  readonly circles?: number;
  /** Binary texts are files. Defaults to false. */
  readonly files?: boolean;
}

/** The members of an object, and the rules between them. */
export interface Members {
  readonly fields: FieldDrafts;
  readonly rules: readonly Call[];
}

/** Fields in one intake, those inside of others included. */
const MOST_FIELDS = 5000;

/** What is known while one intake is read. */
export class Reading {
  readonly gatherer: Gatherer;
  readonly direction: 'received' | 'sent' | 'both';
  readonly blanks: boolean;
  readonly circles: number;
  readonly files: boolean;
  /** What is not supported, and what is read otherwise than it is written. */
  readonly refused: Refused[] = [];
  readonly notes: Refused[] = [];
  #fields = 0;

  constructor(places: Places, { direction = 'both', blanks = true, circles = 3, files = false }: ReadingOptions) {
    this.gatherer = new Gatherer(places, (at, keyword, why) => this.note(at, keyword, why));
    this.direction = direction;
    this.blanks = blanks;
    this.circles = circles;
    this.files = files;
  }

  note(at: string, keyword: string, why: string): void {
    if (!this.notes.some((each) => each.at === at && each.keyword === keyword)) this.notes.push({ at, keyword, why });
  }

  /** What is not supported is told with the rest, and not at once. */
  attempted<T>(reads: () => T): T | undefined {
    try {
      return reads();
    } catch (cause) {
      if (!(cause instanceof Unsupported)) throw cause;
      const { at, keyword } = cause.refused;
      if (!this.refused.some((each) => each.at === at && each.keyword === keyword)) this.refused.push(cause.refused);
      return undefined;
    }
  }

  /** A call that Jestril takes. */
  call(at: string, keyword: string, name: string, ...args: readonly Argument[]): Call {
    const made = call(name, ...args);
    taken(at, keyword, () => built(made));
    return made;
  }

  /** A field that Jestril takes. What holds others is seen when all is there. */
  field(at: string, draft: FieldDraft): FieldDraft {
    this.count(at);
    if (!isComposite(draft.kind))
      taken(at, 'schema', () => builtIntake({ name: 'field', fields: { field: draft }, rules: [], refusesStrangers: false, remarks: [] }));
    return draft;
  }

  /** One field more: what refers to itself in many ways would grow without end. */
  count(at: string): void {
    this.#fields++;
    if (this.#fields > MOST_FIELDS) throw new Unsupported(at, 'properties', `an intake has more than ${MOST_FIELDS} fields here`);
  }
}

function taken(at: string, keyword: string, makes: () => unknown): void {
  try {
    makes();
  } catch (cause) {
    if (!isFault(cause)) throw cause;
    throw new Unsupported(at, keyword, (cause as Error).message.replace(/^Intake "field", field "field": /, ''));
  }
}

/** Whether a kind holds fields of its own. */
export function isComposite(kind: string): boolean {
  return ['group', 'list', 'table', 'oneOfShapes'].includes(kind);
}
