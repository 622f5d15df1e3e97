import { pointerOfName } from '../../forms/names.ts';

/** What carries a value of a form: a native control, or an element of one's own that is associated with forms. */
export type Control = HTMLElement;

/** The name under which a control sends; empty of what sends nothing. */
export const nameOf = (control: Element): string => control.getAttribute('name') ?? '';

/** The type of an `input`, and nothing of any other control. */
export const typeOf = (control: Control): string | undefined => (control instanceof HTMLInputElement ? control.type : undefined);

/** The controls of a form that carry values, by the pointer of their field. */
export function controlsOf(form: HTMLFormElement): Map<string, Control[]> {
  const controls = new Map<string, Control[]>();
  for (const element of elementsOf(form)) {
    if (!isControl(element)) continue;
    const pointer = pointerOfName(nameOf(element));
    const known = controls.get(pointer);
    if (known) known.push(element);
    else controls.set(pointer, [element]);
  }
  return controls;
}

const ELEMENTS =
  typeof HTMLFormElement === 'undefined' ? undefined : Object.getOwnPropertyDescriptor(HTMLFormElement.prototype, 'elements')?.get;

/** A control that is called `elements` hides those of its form. */
export function elementsOf(form: HTMLFormElement): Iterable<Element> {
  return ELEMENTS?.call(form) as HTMLFormControlsCollection;
}

export function isControl(element: unknown): element is Control {
  if (!(element instanceof HTMLElement) || nameOf(element) === '') return false;
  if (element instanceof HTMLInputElement) return !['submit', 'button', 'image', 'reset'].includes(element.type);
  return element instanceof HTMLSelectElement || element instanceof HTMLTextAreaElement || element.localName.includes('-');
}
