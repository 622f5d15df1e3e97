import { type Control, controlsOf } from '../controls/controls.ts';
import { isError, nearest } from '../filling/finding.ts';
import type { Filled } from '../filling/page.ts';

/** The first control at a pointer, above it, or inside what stands there. */
export function controlAt(form: HTMLFormElement, pointer: string): Control | undefined {
  const controls = controlsOf(form);
  const near = nearest(pointer, (each) => controls.has(each));
  const inside = [...controls.keys()].find((each) => each.startsWith(`${pointer}/`));
  return controls.get(near !== '' ? near : (inside ?? ''))?.[0];
}

/** Moves to what is to be mended first. */
export class Focus {
  readonly #form: HTMLFormElement;
  readonly #place: (pointer: string) => HTMLElement | undefined;
  /** Who had the focus, where the first error could not take it. */
  #left: Element | null | undefined;

  /** @param place where a finding is mended that stands at no control */
  constructor(form: HTMLFormElement, place: (pointer: string) => HTMLElement | undefined = () => undefined) {
    this.#form = form;
    this.#place = place;
  }

  /**
   * To the first control that has an error, with the summary in sight; to the summary where both cannot be seen.
   *
   * @param isAgain only where the first could not take it, and nobody has gone elsewhere since
   */
  move(filled: Filled, isAgain: boolean, summary: HTMLElement | undefined): void {
    if (isAgain && document.activeElement !== this.#left) return;
    this.#left = undefined;
    summary?.scrollIntoView({ block: 'start' });
    const target = this.#targetOf(filled, summary);
    target?.focus({ preventScroll: summary !== undefined });
    // What is disabled takes no focus.
    if (target && document.activeElement !== target) this.#left = document.activeElement;
  }

  #targetOf({ findings, trouble }: Filled, summary: HTMLElement | undefined): HTMLElement | undefined {
    if (trouble !== undefined) return summary;
    const errors = findings.filter(isError);
    const first = this.#first((errors.length > 0 ? errors : findings).flatMap(({ at }) => at));
    if (!first || !summary) return first ?? summary;
    const { top, bottom } = first.getBoundingClientRect();
    return top >= 0 && bottom <= innerHeight ? first : summary;
  }

  /** In the order of the page. */
  #first(pointers: readonly string[]): HTMLElement | undefined {
    const controls = controlsOf(this.#form);
    const blamed = new Set(pointers.map((pointer) => nearest(pointer, (each) => controls.has(each))));
    const [first] = [...controls].filter(([pointer]) => blamed.has(pointer)).map(([, [control]]) => control);
    return first ?? pointers.map(this.#place).find((element) => element !== undefined);
  }
}
