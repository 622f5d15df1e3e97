import type { ControlAttributes } from '../../core/declared/kind.ts';
import { controlAttributes } from '../../forms/control-attributes.ts';
import { pointerOfName } from '../../forms/names.ts';
import { type Control, elementsOf, nameOf, typeOf } from './controls.ts';

/** Attributes that are set here, and taken away with the binding. */
export class Attributes {
  readonly #set: { readonly element: Element; readonly name: string }[] = [];

  /** What the page says itself stays. */
  set(element: Element, name: string, value: string): void {
    if (element.hasAttribute(name)) return;
    element.setAttribute(name, value);
    this.#set.push({ element, name });
  }

  /** Tells the browser what the intake says of a control. */
  tell(intake: { readonly name: string }, form: HTMLFormElement, control: Control, amends: boolean): void {
    const attributes = controlAttributes(intake, pointerOfName(nameOf(control)), { amends });
    for (const [name, value] of Object.entries(attributes) as [keyof ControlAttributes, unknown][])
      if (fits(form, control, name)) this.set(control, name, value === true ? '' : String(value));
    if (control.hasAttribute('required')) this.set(control, 'aria-required', 'true');
  }

  release(): void {
    for (const { element, name } of this.#set.splice(0)) element.removeAttribute(name);
  }
}

/** Only a text box takes another type or a pattern; a list's `multiple` is for selects and files. */
function fits(form: HTMLFormElement, control: Control, name: keyof ControlAttributes): boolean {
  const type = typeOf(control);
  if (name === 'multiple') return control instanceof HTMLSelectElement || type === 'file';
  if (name === 'required') return type !== 'radio' || !isRequired(form, nameOf(control));
  if (type !== undefined) return name !== 'type' || !control.hasAttribute('type');
  return control instanceof HTMLTextAreaElement && (name === 'minlength' || name === 'maxlength');
}

/** One of the radio buttons of a group says it for all. */
function isRequired(form: HTMLFormElement, name: string): boolean {
  return [...elementsOf(form)].some((each) => nameOf(each) === name && each.hasAttribute('required'));
}
