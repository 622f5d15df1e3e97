import type { AnyIntake } from '../http/receive/options.ts';
import { FormControls } from './controls/form-controls.ts';
import { listen } from './controls/listening.ts';
import { Filling } from './filling/filling.ts';
import type { ShownFinding } from './filling/finding.ts';
import { type FillingOptions, localeOf } from './filling/options.ts';
import { Showing } from './showing/showing.ts';

/** How an intake is bound to a form. */
export interface BindOptions extends FillingOptions {
  /** Lists the findings of a form that was sent, each linked to its control. It should take the focus (`tabindex="-1"`). */
  readonly summary?: HTMLElement;
}

/** A form that is bound to its intake. */
export interface BoundForm {
  /** Shows findings of the server beside the fields and in the summary, and moves to the first. */
  show(findings: readonly ShownFinding[]): void;
  /** Looks at the form again, after a script has changed values. Controls that come, go or are renamed are noticed without. */
  refresh(): void;
  /** Lets go of the form, and takes back everything that it was given. */
  release(): void;
}

/**
 * Binds an intake to an HTML form that is there already. A field is judged when it is left, and those that depend on it
 * with it; the server is asked only for rules that need records. Findings stand in the element with `data-field="/pointer"`,
 * else behind the control, for as long as what their rule has read. Without scripts the form works as it stands.
 */
export function bindForm(form: HTMLFormElement, intake: AnyIntake, options: BindOptions = {}): BoundForm {
  const release = new AbortController();
  const controls = new FormControls(form, intake, options.stored !== undefined);
  const showing = new Showing(form, intake, options.summary, controls.attributes, () => localeOf(options));
  const filling = new Filling(intake, controls, showing, () => options);
  filling.adopt(showing.adopt());
  const follow = listen(form, controls, filling, release.signal);
  return {
    show(findings) {
      follow();
      filling.show(findings);
    },
    refresh() {
      follow();
      filling.look();
    },
    release() {
      release.abort();
      filling.stop();
      showing.release();
      controls.release();
    },
  };
}
