import { pointerOfName } from '../../forms/names.ts';
import type { AnyIntake } from '../../http/receive/options.ts';
import { FormControls } from '../controls/form-controls.ts';
import type { Entry } from '../filling/values.ts';

/** The controls of a form, and what is set where there is none. */
export class ViewControls extends FormControls {
  readonly #set: ReadonlyMap<string, readonly string[]>;

  constructor(form: HTMLFormElement, intake: AnyIntake, amends: boolean, set: ReadonlyMap<string, readonly string[]>) {
    super(form, intake, amends);
    this.#set = set;
  }

  override sent(submitter: HTMLElement | null): FormData {
    const form = super.sent(submitter);
    for (const [name, value] of this.#others()) form.append(name, value);
    return form;
  }

  override entries(): Entry[] {
    return [...super.entries(), ...this.#others()];
  }

  override pointers(): ReadonlySet<string> {
    return new Set([...super.pointers(), ...[...this.#set.keys()].map(pointerOfName)]);
  }

  #others(): [string, string][] {
    const known = super.pointers();
    return [...this.#set].flatMap(([name, values]) =>
      known.has(pointerOfName(name)) ? [] : values.map((value) => [name, value] as [string, string]),
    );
  }
}
