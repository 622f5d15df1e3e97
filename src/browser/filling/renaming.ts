/** Where a value stands now that stood elsewhere; `undefined` for what is gone. */
export type Renaming = (pointer: string) => string | undefined;

/**
 * What became of the pointers of a form whose rows were taken away or moved, told by what its controls are called now. A row, as what
 * holds it, goes where its controls went.
 *
 * @param before the controls, by the pointers of their names
 * @param now the controls that there are
 */
export function renamingOf(before: ReadonlyMap<object, string>, now: ReadonlyMap<object, string>): Renaming {
  const moved = new Map<string, string | undefined>();
  for (const [control, old] of before) {
    const from = old.split('/');
    const to = now.get(control)?.split('/');
    for (let length = 1; length <= from.length; length++) {
      const whole = from.slice(0, length).join('/');
      const target = to?.length === from.length ? to.slice(0, length).join('/') : undefined;
      moved.set(whole, moved.get(whole) ?? target);
    }
  }
  return (pointer) => (moved.has(pointer) ? moved.get(pointer) : pointer);
}
