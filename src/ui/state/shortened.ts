/** What stands for the middle that is left out: a line may break before it and (by U+2060) not after, so that none ends in it. */
const GAP = ' …\u2060';

const GAP_SIGNS = 2;

/** As many whole words from both ends by turns as have room for so many signs; null where not even one of each has. */
function wordsOfBothEnds(words: readonly string[], room: number): [string, string] | null {
  let [first, last, left] = [0, words.length, room];
  const fits = (word: string, taken: number) => {
    const need = word.length + (taken > 0 ? 1 : 0);
    if (need > left) return false;
    left -= need;
    return true;
  };
  for (let goesOn = true; goesOn && first < last; ) {
    goesOn = fits(words[last - 1], words.length - last);
    if (goesOn) last--;
    if (first < last && fits(words[first], first)) first++;
    else if (!goesOn) break;
    else goesOn = first < last;
  }
  if (first === 0 || last === words.length) return null;
  return [words.slice(0, first).join(' '), words.slice(last).join(' ')];
}

/**
 * A text of at most `most` signs that are seen: what is too long loses its middle, by whole words where there are such, so that
 * its beginning and its end can be read.
 */
export function shortened(text: string, most: number): string {
  const signs = Array.from(text);
  if (signs.length <= most) return text;
  const room = most - GAP_SIGNS;
  const ends = wordsOfBothEnds(text.split(' '), room);
  if (ends) return ends.join(GAP);
  const tail = Math.floor(room / 2);
  const [start, end] = [signs.slice(0, room - tail), signs.slice(signs.length - tail)].map((part) => part.join(''));
  return `${start.trimEnd()}${GAP}${end.trimStart()}`;
}
