// Runs of bytes as OpenEXR's RLE writes them: a count n ≥ 0 and a byte that comes n + 1 times, or −n and n bytes as they are.

/** Bytes from which on equal ones are a run, and most of a run or of bytes as they are. */
const LEAST_RUN: usize = 3;
const MOST: usize = 127;

/** Packs `n` bytes at `to`; how many they became, −1 where they are not below `most`. */
export function packRuns(from: usize, n: usize, to: usize, most: usize): i32 {
  const begin = to, end = from + n, room = to + most;
  while (from < end) {
    const last = min(end, from + MOST);
    const byte = load<u8>(from);
    let at = from + 1;
    while (at < last && load<u8>(at) == byte) at++;
    if (at - from >= LEAST_RUN) {
      if (to + 2 >= room) return -1;
      store<u8>(to, at - from - 1);
      store<u8>(to, byte, 1);
      to += 2;
      from = at;
      continue;
    }
    // As they are, up to the next run.
    at = from + 1;
    while (at < last) {
      const own = load<u8>(at);
      if (at + 2 < end && own == load<u8>(at, 1) && own == load<u8>(at, 2)) break;
      at++;
    }
    const length = at - from;
    if (to + 1 + length >= room) return -1;
    store<u8>(to, 256 - length);
    memory.copy(to + 1, from, length);
    to += 1 + length;
    from = at;
  }
  return <i32>(to - begin);
}

/** What `unpackRuns` gives where it finds a fault, as `../hot` has them. */
const BEYOND_THE_END: i32 = -1;
const TOO_MANY: i32 = -3;

/** The bytes again, `most` of them at most; how many. */
export function unpackRuns(from: usize, n: usize, to: usize, most: usize): i32 {
  const begin = to, end = from + n, room = to + most;
  while (from < end) {
    const count: i32 = load<i8>(from++);
    const length: usize = count < 0 ? -count : count + 1;
    if (from + (count < 0 ? length : 1) > end) return BEYOND_THE_END;
    if (to + length > room) return TOO_MANY;
    if (count < 0) {
      memory.copy(to, from, length);
      from += length;
    } else memory.fill(to, load<u8>(from++), length);
    to += length;
  }
  return <i32>(to - begin);
}
