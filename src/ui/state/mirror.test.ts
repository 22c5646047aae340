import { type Channel, type Drawn, Mirror, pageName, watchMirror } from './mirror';

/** Both ends of a channel: what one posts the other hears at once. */
function ends(): [Channel, Channel] {
  const make = (): Channel => ({ postMessage: () => {}, close: () => {}, onmessage: null });
  const [one, other] = [make(), make()];
  one.postMessage = (data) => other.onmessage?.({ data } as MessageEvent);
  other.postMessage = (data) => one.onmessage?.({ data } as MessageEvent);
  return [one, other];
}
const drawn = (reason: string): Drawn => ({ type: 'absent', slot: 'A', reason });

test('a window that opens later gets what the page last drew, and all that follows', () => {
  jest.useFakeTimers();
  const [page, window] = ends();
  let now = 0;
  const mirror = new Mirror<{ zoom: number }>(page, () => now);
  mirror.draw(drawn('before'));
  mirror.draw(drawn('last'));
  mirror.look({ zoom: 2 });
  const heard: unknown[] = [];
  const end = watchMirror<{ zoom: number }>({ drawn: (d) => heard.push(d), looked: (l) => heard.push(l) }, window);
  expect(heard).toEqual([{ zoom: 2 }, drawn('last')]);
  mirror.draw(drawn('next'));
  expect(heard).toHaveLength(3);
  // One that has not asked for long is closed: nothing is copied for it.
  now += 9000;
  mirror.draw(drawn('unseen'));
  expect(heard).toHaveLength(3);
  jest.advanceTimersByTime(2500);
  expect(heard.at(-1)).toEqual(drawn('unseen'));
  end();
  jest.useRealTimers();
});

test('a page keeps its name over a reload', () => {
  const kept = new Map<string, string>();
  const storage = {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
  };
  expect(pageName(storage)).toBe(pageName(storage));
});
