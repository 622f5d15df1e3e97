import pc from 'picocolors';
import wrapAnsi from 'wrap-ansi';

/** How something is written for people: with colour or without, and within so many columns. */
export interface Look {
  readonly width: number;
  readonly paint: ReturnType<typeof pc.createColors>;
}

/** Colour only on a terminal, and never with NO_COLOR (no-color.org); long lines are wrapped on a terminal only. */
export function lookOf(stream: { readonly isTTY?: boolean; readonly columns?: number }): Look {
  const isTerminal = stream.isTTY === true;
  return {
    width: isTerminal ? Math.max(40, stream.columns ?? 80) : Number.POSITIVE_INFINITY,
    paint: pc.createColors(isTerminal && !process.env.NO_COLOR),
  };
}

/** Text within the width; further lines begin under the first, behind so many blanks. */
export function wrapped({ width }: Look, text: string, indent: number, hanging = indent): string {
  const bare = text.trimStart();
  // Blanks in front are part of a picture, and wrapping would take them away.
  const blanks = ' '.repeat(indent + text.length - bare.length);
  if (width === Number.POSITIVE_INFINITY) return blanks + bare;
  const lines = wrapAnsi(bare, Math.max(20, width - Math.max(indent, hanging)), { hard: true }).split('\n');
  return lines.map((line, at) => (at === 0 ? blanks : ' '.repeat(hanging)) + line).join('\n');
}

/** Rows as columns, each as wide as its widest cell; the last takes what is left. Numbers stand to the right. */
export function columns(look: Look, rows: readonly (readonly string[])[], indent = 2): string {
  const count = Math.max(0, ...rows.map((row) => row.length));
  const widths = Array.from({ length: count }, (_, at) => Math.max(...rows.map((row) => (row[at] ?? '').length)));
  return rows
    .map((row) => {
      const isNumeric = (cell: string) => /^[\d,. ]+%?$/.test(cell);
      const cells = row.slice(0, -1).map((cell, at) => {
        const width = widths[at] as number;
        return isNumeric(cell) ? cell.padStart(width) : cell.padEnd(width);
      });
      const before = cells.join('  ');
      const gap = before === '' ? '' : '  ';
      const hanging = indent + before.length + gap.length;
      // The last cell alone is wrapped, beside those before it.
      return `${' '.repeat(indent)}${before}${gap}${wrapped(look, row.at(-1) ?? '', hanging).slice(hanging)}`;
    })
    .join('\n');
}

/** "1 submission", "3 submissions". */
export function counted(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString('en')} ${count === 1 ? one : many}`;
}
