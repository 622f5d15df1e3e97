import { onScopeDispose, onUpdated, type ShallowRef, shallowRef, useId } from 'vue';
import type { AnyIntake } from '../http/receive/options.ts';
import type { FillingOptions } from './filling/options.ts';
import type { IntakeForm } from './view/drawn.ts';
import { FormView } from './view/form-view.ts';

export type { ShownFinding } from './filling/finding.ts';
export type { FillingOptions } from './filling/options.ts';
export type { FieldMessage, IntakeField, IntakeForm, SummaryLine } from './view/drawn.ts';

/** What a component gets: what is to be drawn, and what binds the form. */
export interface DrawnForm {
  /** What stands in the form, and what is found. */
  readonly form: Readonly<ShallowRef<IntakeForm>>;
  /** The `:ref` of the form. */
  readonly bind: (form: unknown) => void;
}

/**
 * A form of an intake in Vue, with `v-model` or without: templates draw what is found, the intake judges. It binds the `form` element
 * whose `:ref` is `bind`.
 *
 * @example const { bind, form } = useIntake(ownerSignUp, { send: (data) => fetch('/owners', { method: 'POST', body: data }) });
 */
export function useIntake(intake: AnyIntake, options: FillingOptions = {}): DrawnForm {
  const view = new FormView(intake, useId(), () => options);
  const form = shallowRef(view.current());
  const stop = view.subscribe(() => {
    form.value = view.current();
  });
  onUpdated(view.rendered);
  onScopeDispose(() => {
    stop();
    view.bind(null);
  });
  return { form, bind: view.bind };
}
