import { pointerOfName } from '../../forms/names.ts';
import type { Filling } from '../filling/filling.ts';
import { type Control, elementsOf, isControl, nameOf } from './controls.ts';
import type { FormControls } from './form-controls.ts';

/**
 * Tells a filling what is done in its form, until the signal is aborted.
 *
 * @returns looks whether rows have come, gone or moved; the next thing that is done would show it too
 */
export function listen(form: HTMLFormElement, controls: FormControls, filling: Filling, signal: AbortSignal): () => void {
  const follow = () => {
    const renaming = controls.renamed();
    if (renaming) filling.rename(renaming);
  };
  /** Whatever is done to a control of the form, wherever it stands. */
  const on = (type: string, heard: (control: Control) => void) => {
    const hear = (event: Event) => {
      const control = event.composedPath().find((target): target is Control => isControl(target));
      if (!control || ![...elementsOf(form)].includes(control)) return;
      follow();
      heard(control);
    };
    // Controls beside the form, which its events do not pass.
    const root = form.getRootNode() instanceof ShadowRoot ? form.getRootNode() : document;
    form.addEventListener(type, hear, { signal });
    root.addEventListener(type, (event) => event.composedPath().includes(form) || hear(event), { signal });
  };
  on('input', () => filling.typed());
  // What is chosen has its value at once; text that is typed has it when it is left, or changed by a script that says so.
  for (const type of ['change', 'focusout']) on(type, (control) => filling.left(pointerOfName(nameOf(control))));
  form.addEventListener('submit', (event) => submit(form, controls, filling, event), { signal });
  form.addEventListener('reset', () => setTimeout(() => signal.aborted || filling.beginAnew()), { signal });
  // A page that comes back from the browser's cache shows what still holds; who stops its loading stays.
  addEventListener('pageshow', ({ persisted }) => persisted && filling.comeBack(), { signal });
  addEventListener('keydown', ({ key }) => key === 'Escape' && filling.comeBack(), { signal });
  addEventListener('pointerdown', () => filling.press(true), { signal, capture: true });
  // After the click that follows.
  const lift = () => setTimeout(() => signal.aborted || filling.press(false));
  for (const type of ['pointerup', 'pointercancel']) addEventListener(type, lift, { signal, capture: true });
  // Rows that are added, taken away or numbered anew.
  const observer = new MutationObserver(follow);
  observer.observe(form, { childList: true, subtree: true, attributeFilter: ['name', 'form', 'type'] });
  signal.addEventListener('abort', () => observer.disconnect());
  return follow;
}

function submit(form: HTMLFormElement, controls: FormControls, filling: Filling, event: SubmitEvent): void {
  const submitter = event.submitter as HTMLButtonElement | HTMLInputElement | null;
  const told = (own: 'formMethod' | 'formTarget', of: 'method' | 'target') => {
    const attribute = own.toLowerCase();
    return (submitter?.hasAttribute(attribute) ? submitter.getAttribute(attribute) : form.getAttribute(of))?.toLowerCase() ?? '';
  };
  // What only asks for something, or opens elsewhere, may be pressed again.
  const isGuarded = told('formMethod', 'method') === 'post' && ['', '_self', '_parent', '_top'].includes(told('formTarget', 'target'));
  // Which button was pressed is part of what is sent; a draft may be sent as it is (`formnovalidate`).
  const isLeft = filling.submit(controls.sent(submitter), submitter?.formNoValidate === true, isGuarded);
  if (!isLeft) event.preventDefault();
}
