import { useCallback, useEffect, useId, useInsertionEffect, useMemo, useRef, useSyncExternalStore } from 'react';
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
  readonly form: IntakeForm;
  /** The `ref` of the form. */
  readonly bind: (form: HTMLFormElement | null) => void;
}

/**
 * A form of an intake in React, controlled or not: components draw what is found, the intake judges. It binds the `form` element whose
 * `ref` is `bind`.
 *
 * @example const { bind, form } = useIntake(ownerSignUp, { send: (data) => fetch('/owners', { method: 'POST', body: data }) });
 */
export function useIntake(intake: AnyIntake, options: FillingOptions = {}): DrawnForm {
  const id = useId();
  // The latest options are used without binding anew at every rendering.
  const latest = useRef(options);
  useInsertionEffect(() => {
    latest.current = options;
  });
  const view = useMemo(() => new FormView(intake, id, () => latest.current), [intake, id]);
  const form = useSyncExternalStore(view.subscribe, view.current, view.current);
  const bind = useCallback((element: HTMLFormElement | null) => view.bind(element), [view]);
  useEffect(view.rendered);
  return { form, bind };
}
