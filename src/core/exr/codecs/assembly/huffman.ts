// Codes of 16-bit words, bits from the highest of each byte down; `../huffman` has their tables.

/** Bits that are looked up at once. */
const LOOKED_UP: u32 = 14;
const MOST_LENGTH: u32 = 58;
const MOST_REPEATS: u32 = 255;
/** Bits of a number that codes are written by: longer ones begin with zeros, as the longest are the smallest. */
const WORD: u32 = 32;

/**
 * Writes the codes of `n` words at `to`, up to a word of 32 bits more; the number of bits. `codes` has code · 64 + length by word; `run`
 * is the code for repeats.
 */
export function encode(words: usize, n: u32, codes: usize, run: u32, to: usize): u32 {
  const begin = to;
  const ofRun = load<u32>(codes + (run << 2));
  const runCode = ofRun >> 6, runLength = ofRun & 63;
  let held: u64 = 0, count: u32 = 0;
  for (let i: u32 = 0; i < n; ) {
    const word: u32 = load<u16>(words + (i << 1));
    i++;
    let repeats: u32 = 0;
    while (i < n && repeats < MOST_REPEATS && load<u16>(words + (i << 1)) == word) {
      repeats++;
      i++;
    }
    const ofWord = load<u32>(codes + (word << 2));
    const code = ofWord >> 6, length = ofWord & 63;
    const isRun = length + runLength + 8 < length * repeats;
    // A run is its word once, then the code for repeats with their count.
    for (let times: u32 = isRun ? 2 : repeats + 1; times > 0; times--) {
      const isCount = isRun && times == 1;
      const value: u64 = isCount ? (<u64>runCode << 8) | repeats : code;
      let left = isCount ? runLength + 8 : length;
      if (left > WORD) {
        held <<= left - WORD;
        count += left - WORD;
        left = WORD;
        if (count >= WORD) {
          count -= WORD;
          store<u32>(to, bswap<u32>(<u32>(held >> count)));
          to += 4;
        }
      }
      held = (held << left) | value;
      count += left;
      if (count >= WORD) {
        count -= WORD;
        store<u32>(to, bswap<u32>(<u32>(held >> count)));
        to += 4;
      }
    }
  }
  store<u32>(to, bswap<u32>(<u32>(held << (WORD - count))));
  return (<u32>(to - begin) << 3) + count;
}

/** What `decode` gives where it finds a fault, as `../hot` has them. */
const BEYOND_THE_END: i32 = -1;
const NO_CODE: i32 = -2;
const TOO_MANY: i32 = -3;

/**
 * Reads words from so many bits into `to`, `most` of them at most; how many. Of short codes `table` has symbol · 64 + length; of each
 * length `first` has its first code, `counts` how many, `begins` where their symbols begin. Up to 8 bytes beyond the end are read.
 */
export function decode(
  from: usize, bits: u32, table: usize, first: usize, counts: usize, begins: usize, symbols: usize, run: u32,
  to: usize, most: u32,
): i32 {
  const start = to, end = to + (<usize>most << 1);
  let held: u64 = 0, count: u32 = 0, left: i32 = bits;
  while (left > 0) {
    if (count < WORD) {
      held |= <u64>bswap<u32>(load<u32>(from)) << (WORD - count);
      from += 4;
      count += WORD;
    }
    const looked = load<u32>(table + (<usize>(held >> (64 - LOOKED_UP)) << 2));
    let symbol = looked >> 6;
    if (looked != 0) {
      const length = looked & 63;
      held <<= length;
      count -= length;
      left -= length;
      if (left < 0) return BEYOND_THE_END;
    } else {
      // As many bits as there are for certain are tried at once, longer codes bit by bit.
      const top = <u32>(held >> WORD);
      let length = LOOKED_UP, code: u32 = 0, place: u32 = 0, known: u32 = 0;
      do {
        length++;
        code = top >> (WORD - length);
        known = load<u32>(counts + (length << 2));
        place = code - load<u32>(first + (length << 2));
      } while (place >= known && length < WORD);
      held <<= length;
      count -= length;
      left -= length;
      if (left < 0) return BEYOND_THE_END;
      while (place >= known) {
        if (left == 0) return BEYOND_THE_END;
        if (count == 0) {
          held = <u64>bswap<u32>(load<u32>(from)) << WORD;
          from += 4;
          count = WORD;
        }
        // What is beyond any code stays beyond.
        if (code >= 0x80000000) return NO_CODE;
        code = (code << 1) | <u32>(held >> 63);
        held <<= 1;
        count--;
        left--;
        length++;
        if (length > MOST_LENGTH) return NO_CODE;
        known = load<u32>(counts + (length << 2));
        place = code - load<u32>(first + (length << 2));
      }
      symbol = load<u32>(symbols + ((load<u32>(begins + (length << 2)) + place) << 2));
    }
    if (symbol != run) {
      if (to >= end) return TOO_MANY;
      store<u16>(to, symbol);
      to += 2;
      continue;
    }
    if (left < 8) return BEYOND_THE_END;
    if (count < 8) {
      held |= <u64>bswap<u32>(load<u32>(from)) << (WORD - count);
      from += 4;
      count += WORD;
    }
    let repeats = <u32>(held >> 56);
    held <<= 8;
    count -= 8;
    left -= 8;
    if (to == start || to + (repeats << 1) > end) return TOO_MANY;
    const word = load<u16>(to - 2);
    for (; repeats > 0; repeats--, to += 2) store<u16>(to, word);
  }
  return <u32>(to - start) >> 1;
}
