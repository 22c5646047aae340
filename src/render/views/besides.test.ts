import { stackAt } from '@/core/comp';
import type { Content } from '@/core/scene';
import { nodeInflate } from '@/node/zlib';
import { FilmCache } from '../page/film-cache';
import { Besides } from './besides';
import type { StackOver } from './stack';

const words = Uint16Array.of(0, 32768, 65535, 65535, 0, 0);
const content: Content = {
  name: 'plate',
  use: 'reference',
  hash: 'a'.repeat(64),
  bytes: words.byteLength,
  width: 2,
  height: 1,
  channels: 3,
  format: 'word',
};
const over = (encoding: string, more: Partial<StackOver> = {}): StackOver => ({
  stack: stackAt({ pictures: { sky: { file: 'plate', encoding } } }, 1),
  layers: [],
  objects: [],
  masks: {},
  scale: 1,
  others: {},
  files: {},
  primaries: {},
  contents: { sky: content },
  tables: {},
  moods: {},
  lookedAt: null,
  ...more,
});

test('plates are fetched once, decoded as the stack says, and the same for as long as the same is asked for', async () => {
  const fetched: string[] = [];
  const fetchContent = async (hash: string) => {
    fetched.push(hash);
    return hash.startsWith('a')
      ? new Uint8Array(words.buffer)
      : new TextEncoder().encode('LUT_1D_SIZE 2\n0 0 0\n1 1 1\n');
  };
  const besides = new Besides(new FilmCache(), fetchContent, nodeInflate);
  const linear = await besides.of(over('linear'));
  expect([...linear.pictures.get('sky')!.planes[1]]).toEqual([Math.fround(32768 / 65535), 0]);
  expect(await besides.of(over('linear'))).toBe(linear);
  const decoded = (await besides.of(over('srgb'))).pictures.get('sky')!;
  expect(decoded.planes[1][0]).toBeCloseTo(0.214, 3);
  expect(await besides.of(over('linear'))).toBe(linear);
  const graded = await besides.of(over('linear', { tables: { look: 'b'.repeat(64) } }));
  expect(graded.tables.get('look')).toBeDefined();
  // A gap of a plate shows nothing.
  const gap = await besides.of(over('linear', { contents: { sky: null } }));
  expect([...gap.pictures.get('sky')!.planes[3]]).toEqual([0]);
  expect(fetched).toHaveLength(3);
});

test('what cannot be fetched is told, and asked for again', async () => {
  let tries = 0;
  const fetchContent = async () => {
    tries++;
    if (tries === 1) throw new Error('away');
    return new Uint8Array(words.buffer);
  };
  const besides = new Besides(new FilmCache(), fetchContent, nodeInflate);
  await expect(besides.of(over('linear'))).rejects.toThrow('away');
  expect((await besides.of(over('linear'))).pictures.size).toBe(1);
});
