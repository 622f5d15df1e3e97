/** The names in a message, each between two of the same quotation marks; a doubled mark stands for itself. */
export function namesIn(told: string, marks = '`'): string[] {
  const names: string[] = [];
  for (let at = 0; at < told.length; at++) {
    const mark = told[at] as string;
    if (!marks.includes(mark)) continue;
    let name = '';
    for (at++; at < told.length; at++) {
      if (told[at] !== mark) name += told[at];
      else if (told[at + 1] === mark) name += told[at++];
      else break;
    }
    names.push(name);
  }
  return names;
}
