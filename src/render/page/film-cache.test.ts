import { toHalf } from '@/core/exr';
import { FilmCache, fetchPreview } from './film-cache';

const SIZE = 4 * 2;
const LAYER_BYTES = SIZE * 3 * 4;
const plain = (id: string) => ({ id, film: 'f', denoised: null });
let asked: string[] = [];
let answer: (url: string) => Response;

function layerResponse(value: number): Response {
  return new Response(new Float32Array(SIZE * 3).fill(value), {
    headers: { 'x-width': '4', 'x-height': '2', 'x-channels': 'R,G,B' },
  });
}

beforeEach(() => {
  asked = [];
  answer = () => layerResponse(1);
  globalThis.fetch = (async (url: string) => {
    asked.push(url);
    return answer(url);
  }) as typeof fetch;
});

test('a film is made of its layers, each asked for once', async () => {
  answer = (url) => layerResponse(url.includes('beauty') ? 3 : 5);
  const cache = new FilmCache();
  const [film] = await Promise.all([
    cache.film(plain('t1'), ['beauty', 'group.lamp']),
    cache.film(plain('t1'), ['beauty']),
  ]);
  await cache.film(plain('t1'), ['group.lamp']);
  expect([film.width, film.height]).toEqual([4, 2]);
  expect(film.layers.get('beauty')!.planes.map((p) => p[SIZE - 1])).toEqual([3, 3, 3]);
  expect(film.layers.get('group.lamp')!.planes[2][0]).toBe(5);
  expect(asked.sort()).toEqual(['/api/trials/t1/layers/beauty?film=f', '/api/trials/t1/layers/group.lamp?film=f']);
});

test('data layers are marked as data', async () => {
  const film = await new FilmCache().film(plain('t1'), ['depth', 'albedo']);
  expect(film.layers.get('depth')!.kind).toBe('data');
  expect(film.layers.get('albedo')!.kind).toBe('color');
});

test('beyond its limit the layer used longest ago is dropped, and only that', async () => {
  const cache = new FilmCache(LAYER_BYTES * 2);
  await cache.film(plain('a'), ['beauty']);
  await cache.film(plain('b'), ['beauty']);
  await cache.film(plain('a'), ['beauty']);
  await cache.film(plain('c'), ['beauty']);
  asked = [];
  await cache.film(plain('a'), ['beauty']);
  await cache.film(plain('c'), ['beauty']);
  expect(asked).toEqual([]);
  await cache.film(plain('b'), ['beauty']);
  expect(asked).toEqual(['/api/trials/b/layers/beauty?film=f']);
});

test('a refusal is told in the server’s words and not remembered', async () => {
  answer = () => Response.json({ error: { message: 'no such layer' } }, { status: 404 });
  const cache = new FilmCache();
  await expect(cache.film(plain('t1'), ['beauty'])).rejects.toThrow('no such layer');
  answer = () => layerResponse(2);
  await expect(cache.film(plain('t1'), ['beauty'])).resolves.toMatchObject({ width: 4 });
});

test('a preview arrives as half floats; nothing yet reads as null', async () => {
  answer = () =>
    new Response(
      Uint16Array.from({ length: SIZE * 3 }, (_, i) => toHalf(i / 4)),
      {
        headers: { 'x-width': '4', 'x-height': '2' },
      },
    );
  const film = (await fetchPreview('t1'))!;
  expect(Array.from(film.layers.get('beauty')!.planes[1])).toEqual([2, 2.25, 2.5, 2.75, 3, 3.25, 3.5, 3.75]);
  answer = () => new Response(null, { status: 204 });
  expect(await fetchPreview('t1')).toBeNull();
});
