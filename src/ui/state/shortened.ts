/** A text of at most `most` signs: what is too long loses its middle, so that its beginning and its end can be read. */
export function shortened(text: string, most: number): string {
  const signs = Array.from(text);
  if (signs.length <= most) return text;
  const tail = Math.floor((most - 1) / 2);
  const head = most - 1 - tail;
  return `${signs.slice(0, head).join('').trimEnd()}…${signs
    .slice(signs.length - tail)
    .join('')
    .trimStart()}`;
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
