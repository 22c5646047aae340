import { PRESETS } from '@/core/recipe';
import { emptyShot, sceneSchema } from '@/core/scene';
import { keepUnsent, unsentOf } from './unsent';

function memory(room = Infinity): Storage {
  const kept = new Map<string, string>();
  return {
    length: 0,
    clear: () => kept.clear(),
    key: () => null,
    getItem: (k) => kept.get(k) ?? null,
    removeItem: (k) => void kept.delete(k),
    setItem: (k, v) => {
      if (v.length > room) throw new DOMException('full', 'QuotaExceededError');
      kept.set(k, v);
    },
  };
}

describe('edits that a page could not send when it was left', () => {
  const scene = sceneSchema.parse(JSON.parse(JSON.stringify(emptyShot('quay'))));

  test('are there once, for their own shot', () => {
    const storage = memory();
    keepUnsent({ shot: 'a', version: 7, scene, recipe: PRESETS.Check }, storage);
    expect(unsentOf('b', storage)).toBeNull();
    expect(unsentOf('a', storage)).toEqual({ shot: 'a', version: 7, scene, recipe: PRESETS.Check });
    expect(unsentOf('a', storage)).toBeNull();
  });

  test('of no room, broken or no longer valid are let go without a fault', () => {
    const small = memory(10);
    keepUnsent({ shot: 'a', version: 1, scene }, small);
    expect(unsentOf('a', small)).toBeNull();
    const storage = memory();
    storage.setItem('lantern-unsent', '{"shot":"a","version":1,"scene":{"lights":3}}');
    expect(unsentOf('a', storage)).toBeNull();
    storage.setItem('lantern-unsent', '{');
    expect(unsentOf('a', storage)).toBeNull();
    expect(storage.getItem('lantern-unsent')).toBeNull();
  });
});
