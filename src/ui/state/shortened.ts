/** What stands for the middle that is left out: a line may break before it and (by U+2060) not after, so that none ends in it. */
const GAP = ' …\u2060';

/** A text of at most `most` signs: what is too long loses its middle, so that its beginning and its end can be read. */
export function shortened(text: string, most: number): string {
  const signs = Array.from(text);
  if (signs.length <= most) return text;
  const tail = Math.floor((most - GAP.length) / 2);
  const head = most - GAP.length - tail;
  const [start, end] = [signs.slice(0, head), signs.slice(signs.length - tail)].map((part) => part.join(''));
  return `${start.trimEnd()}${GAP}${end.trimStart()}`;
}

/** Texts of a list without the beginning that all of them share, cut where a word ends; themselves where nothing is left. */
export function differing(texts: readonly string[]): string[] {
  if (texts.length < 2) return [...texts];
  let shared = 0;
  const [first] = texts;
  while (shared < first.length && texts.every((t) => t[shared] === first[shared])) shared++;
  const cut = first.lastIndexOf(' ', shared - 1) + 1;
  return texts.every((t) => t.length > cut) ? texts.map((t) => t.slice(cut)) : [...texts];
}
