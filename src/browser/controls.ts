import type { ControlAttributes } from '../core/declared/kind.ts';
import { planOf } from '../core/intake.ts';
import { controlAttributes } from '../forms/control-attributes.ts';
import { pointerOfName, segmentsOf } from '../forms/names.ts';
import { stepsAt } from '../forms/steps-at.ts';

export type Control = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

/** The controls of a form that carry values, by the pointer of their field. */
export function controlsOf(form: HTMLFormElement): Map<string, Control[]> {
  const controls = new Map<string, Control[]>();
  for (const element of elementsOf(form)) {
    if (!isControl(element) || element.name === '') continue;
    const pointer = pointerOfName(element.name);
    controls.set(pointer, [...(controls.get(pointer) ?? []), element]);
  }
  return controls;
}

const ELEMENTS =
  typeof HTMLFormElement === 'undefined' ? undefined : Object.getOwnPropertyDescriptor(HTMLFormElement.prototype, 'elements')?.get;

/** A control that is called `elements` hides those of its form. */
function elementsOf(form: HTMLFormElement): HTMLFormControlsCollection {
  return ELEMENTS?.call(form) as HTMLFormControlsCollection;
}

/** The paths of the flags whose check boxes a form shows. */
export function boxesIn(form: HTMLFormElement, intake: { readonly name: string }): string[] {
  const { fields } = planOf(intake);
  const names = [...controlsOf(form)]
    .filter(([, controls]) => controls.some(({ type }) => type === 'checkbox'))
    .map(([pointer]) => pointer);
  const steps = names.flatMap((pointer) => stepsAt(fields, segmentsOf(pointer)));
  return [...new Set(steps.flatMap(({ step: { kind, place } }) => (kind.unsent === undefined ? [] : [place.path])))];
}

export function isControl(element: unknown): element is Control {
  return (
    (element instanceof HTMLInputElement && !['submit', 'button', 'image', 'reset'].includes(element.type)) ||
    element instanceof HTMLSelectElement ||
    element instanceof HTMLTextAreaElement
  );
}

/** Tells the browser what the intake says of a control; what the page says itself stays. */
export function setAttributes(intake: { readonly name: string }, control: Control, amends: boolean): void {
  const attributes = controlAttributes(intake, pointerOfName(control.name), { amends });
  for (const [name, value] of Object.entries(attributes) as [keyof ControlAttributes, unknown][]) {
    if (control.hasAttribute(name) || !fits(control, name)) continue;
    control.setAttribute(name, value === true ? '' : String(value));
  }
  if (control.required && !control.hasAttribute('aria-required')) control.setAttribute('aria-required', 'true');
}

/** Only a text box takes another type or a pattern; a list's `multiple` is for selects and files. */
function fits(control: Control, name: keyof ControlAttributes): boolean {
  if (name === 'multiple') return control instanceof HTMLSelectElement || control.type === 'file';
  if (name === 'required')
    return !(control.type === 'radio' && control.form?.querySelector(`[name="${CSS.escape(control.name)}"][required]`));
  if (control instanceof HTMLInputElement) return name !== 'type' || !control.hasAttribute('type');
  return control instanceof HTMLTextAreaElement && (name === 'minlength' || name === 'maxlength');
}
