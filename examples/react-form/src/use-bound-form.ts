import { type BindOptions, bindForm } from 'jestril/browser';
import { type RefObject, useEffect, useRef } from 'react';

/** Binds the form behind the ref to an intake, for as long as it is mounted. */
export function useBoundForm(
  intake: Parameters<typeof bindForm>[1],
  options: Omit<BindOptions, 'summary'>,
): { readonly form: RefObject<HTMLFormElement | null>; readonly summary: RefObject<HTMLElement | null> } {
  const form = useRef<HTMLFormElement>(null);
  const summary = useRef<HTMLElement>(null);
  // The latest options are used without binding anew at every rendering.
  const latest = useRef(options);
  latest.current = options;
  useEffect(() => {
    if (!form.current) return undefined;
    const bound = bindForm(form.current, intake, {
      ...latest.current,
      send: (data, signal) => (latest.current.send as NonNullable<BindOptions['send']>)(data, signal),
      onAnswer: (response) => latest.current.onAnswer?.(response),
      ...(summary.current && { summary: summary.current }),
    });
    return () => bound.release();
  }, [intake]);
  return { form, summary };
}
