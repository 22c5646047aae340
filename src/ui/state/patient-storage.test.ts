import { patientStorage } from './patient-storage';

class Written {
  readonly writes: [string, string][] = [];
  private readonly kept = new Map<string, string>();
  getItem = (k: string) => this.kept.get(k) ?? null;
  setItem = (k: string, v: string) => {
    this.writes.push([k, v]);
    this.kept.set(k, v);
  };
  removeItem = (k: string) => void this.kept.delete(k);
}
const made = () => {
  const storage = new Written();
  const page = new EventTarget();
  return { storage, page, own: patientStorage<{ x: number }>(400, { storage: storage as unknown as Storage, page }) };
};

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

test('a drag of a hundred changes is written once, when it has come to rest', () => {
  const { storage, own } = made();
  for (let x = 0; x < 100; x++) {
    own.setItem('view', { state: { x }, version: 0 });
    jest.advanceTimersByTime(16);
  }
  expect(storage.writes).toHaveLength(0);
  jest.advanceTimersByTime(400);
  expect(storage.writes).toEqual([['view', JSON.stringify({ state: { x: 99 }, version: 0 })]]);
  expect(own.getItem('view')).toEqual({ state: { x: 99 }, version: 0 });
});

test('a page that goes writes what was not written yet, once', () => {
  const { storage, page, own } = made();
  own.setItem('view', { state: { x: 3 }, version: 0 });
  page.dispatchEvent(new Event('pagehide'));
  jest.advanceTimersByTime(1000);
  expect(storage.writes).toHaveLength(1);
});

test('what is no JSON, and a browser without room, do no harm', () => {
  const { storage, own } = made();
  storage.setItem('view', '{');
  expect(own.getItem('view')).toBeNull();
  storage.setItem = () => {
    throw new Error('no room');
  };
  own.setItem('view', { state: { x: 1 }, version: 0 });
  expect(() => jest.advanceTimersByTime(1000)).not.toThrow();
});
