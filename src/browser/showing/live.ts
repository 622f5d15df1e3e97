/** A region that screen readers tell of, when something comes while people are elsewhere. Nobody sees it. */
export class Live {
  readonly #region: HTMLElement;

  constructor(form: HTMLFormElement) {
    this.#region = document.createElement('div');
    this.#region.setAttribute('role', 'status');
    this.#region.setAttribute('data-findings-told', '');
    // Out of sight, and still there for those who listen. Set by script, which a policy against inline styles allows.
    Object.assign(this.#region.style, { position: 'absolute', width: '1px', height: '1px', overflow: 'hidden', clipPath: 'inset(50%)' });
    form.append(this.#region);
  }

  tell(text: string, locale: string): void {
    this.#region.lang = locale;
    this.#region.textContent = text;
  }

  release(): void {
    this.#region.remove();
  }
}
