import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode } from 'fast-png';
import { coverageOf, fromBytes, layersOf, readHeaders, readPart } from '@/core/exr';
import {
  type Film,
  type FilmLayers,
  isMask,
  makeLayer,
  makeLayers,
  measureFilm,
  OPENNESS,
  opennessAt,
  PlaneShelf,
  tally,
} from '@/core/film';
import { displayOf, toDisplayBytes } from '@/core/image';
import { canonicalJson } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import { nodeInflate } from '@/node/zlib';
import { frameOfFilm } from '@/render/node/rendered-frame';
import { renderTest, testRecipe } from '@/render/testing';
import type { Sql } from '../db/connection';
import { smallScene, testDatabase } from '../testing';
import { cutFilm, planarLayer } from './cut';
import { proveCut } from './proof';
import { stillOf, stillsZip } from './still';
import { measured, type StoredFilm, storeFilm } from './store';

let sql: Sql;
let close: () => Promise<void>;
let film: Film;
let layers: FilmLayers;
let stored: StoredFilm;
const scene = smallScene();
const recipe = testRecipe(40, 4, {
  film: { ledger: 'all', features: ['alpha', 'depth', 'normal', 'coverage', 'occlusion'] },
});
const origin = {
  scene,
  camera: scene.document.cameras[0],
  frame: 1,
  recipe,
  recipeHash: sha256(canonicalJson(recipe)),
  traceSeconds: 2,
  version: 'test',
};

/** What the film's files say of how it came about. */
const whole = () => {
  const figures = measureFilm(film, displayOf(origin.camera.exposure, scene.document.look));
  return measured(frameOfFilm(film), figures, origin).origin;
};

beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_films'));
  ({ film } = await renderTest(scene, recipe));
  layers = makeLayers(film);
  stored = await storeFilm(sql, frameOfFilm(film), whole());
});
afterAll(() => close());

const places = () => stored.layers.map(({ name, part }) => ({ name, part }));
type How = Parameters<typeof cutFilm>[2];

/** A cut read back: its layers by name, and how its parts are made up. */
async function cut(how: How) {
  const made = (await cutFilm(sql, stored.hash, how))!;
  const chunks: Uint8Array[] = [];
  for await (const chunk of made.bytes) chunks.push(chunk);
  const bytes = new Uint8Array(Buffer.concat(chunks));
  expect(bytes.length).toBe(made.size);
  const source = fromBytes(bytes);
  const file = await readHeaders(source);
  const parts = await Promise.all(
    file.parts.map(async (p, i) => ({
      name: p.name,
      channels: p.channels,
      planes: await readPart(source, file, i, nodeInflate),
      width: made.width,
      height: made.height,
    })),
  );
  return { file, layers: layersOf(parts).layers };
}

test('every layer of a film comes back from the store, bit for bit', async () => {
  expect(stored.layers.map((l) => l.name).sort()).toEqual([...layers.layers.keys()].sort());
  for (const place of places()) {
    if (isMask(place.name)) continue;
    const { planes } = layers.layers.get(place.name)!;
    const back = (await planarLayer(sql, stored.hash, place))!;
    expect([place.name, back.width, back.height]).toEqual([place.name, 40, 40]);
    for (const [i, plane] of planes.entries()) {
      const own = back.values.subarray(i * plane.length, (i + 1) * plane.length);
      expect(
        Buffer.from(new Uint8Array(own.slice().buffer)).equals(Buffer.from(new Uint8Array(plane.slice().buffer))),
      ).toBe(true);
    }
  }
});

test('planes that are used again bring the same layers', () => {
  const shelf = new PlaneShelf();
  for (const { name } of places()) {
    const { planes } = makeLayer(film, name, shelf.take)!;
    expect([name, planes]).toEqual([name, makeLayer(film, name)!.planes]);
    for (const plane of planes) plane.fill(7);
    shelf.giveBack();
  }
});

test('a film that is stored twice is kept once, under the hash of its bytes', async () => {
  const { hash } = await storeFilm(sql, frameOfFilm(film), whole());
  const [{ n }] = await sql`select count(*)::int as n from blob`;
  // The date of writing stands in the file: another second may make it another.
  expect(n).toBe(hash === stored.hash ? 1 : 2);
  const rows = await sql<{ data: Buffer }[]>`select data from blob_chunk where hash = ${hash} order by n`;
  expect(sha256(new Uint8Array(Buffer.concat(rows.map((r) => r.data))))).toBe(hash);
});

test.each(['one', 'many'] as const)(
  'chosen layers are cut into %s, in the depth that is asked for',
  async (parting) => {
    const { file, layers: back } = await cut({
      layers: ['beauty', 'depth'],
      depth: 'half',
      compression: 'zip',
      parting,
    });
    expect(file.parts).toHaveLength(parting === 'one' ? 1 : 2);
    expect([...back.keys()].sort()).toEqual(['beauty', 'depth']);
    const [mine, theirs] = [layers.layers.get('beauty')!.planes[0], back.get('beauty')!.planes[0]];
    for (const [i, v] of mine.entries())
      expect(Math.abs(theirs[i] - v)).toBeLessThanOrEqual(Math.abs(v) * 2 ** -11 + 1e-7);
  },
);

test('alpha goes with the beauty only where it is asked for', async () => {
  const names = async (wanted: string[]) => {
    const { file } = await cut({ layers: wanted, depth: 'float', compression: 'none', parting: 'many' });
    return file.parts.flatMap((p) => p.channels.map((c) => c.name)).sort();
  };
  expect(await names(['beauty'])).toEqual(['B', 'G', 'R']);
  expect(await names(['beauty', 'alpha'])).toEqual(['A', 'B', 'G', 'R']);
  expect(await names(['alpha'])).toEqual(['A']);
});

test('a cut of all layers has all of them, and what holds data stays exact', async () => {
  const wanted = places().map((p) => p.name);
  const { layers: back, file } = await cut({ layers: wanted, depth: 'auto', compression: 'zips', parting: 'many' });
  for (const name of wanted.filter((n) => !isMask(n))) expect(back.has(name)).toBe(true);
  expect(back.get('depth')!.planes[0]).toEqual(layers.layers.get('depth')!.planes[0]);
  const mask = file.parts.filter((p) => p.channels.some((c) => c.name.startsWith(`${p.name}00.`)));
  expect(mask.length).toBeGreaterThan(0);
  for (const part of mask) for (const c of part.channels) expect([c.name, c.type]).toEqual([c.name, 'float']);
});

test('a mask is cut as a plane of its own, float whatever the rest is, without the names of all else', async () => {
  const coverage = layers.layers.get('coverage')!;
  const [first] = scene.document.objects;
  const picked = { names: [first.name], numbers: [1] };
  const masks = { 'mask.first': { picked, ramp: null } };
  const cutOf = await cut({
    layers: ['beauty', 'mask.first'],
    masks,
    depth: 'half',
    compression: 'pxr24',
    parting: 'many',
  });
  const own = cutOf.file.parts.find((p) => p.name === 'mask.first')!;
  expect(own).toMatchObject({ compression: 'zip', channels: [{ name: 'mask.first.Y', type: 'float' }] });
  expect(Object.keys(own.attributes).filter((k) => /^cryptomatte|members$/.test(k))).toEqual([]);
  const truth = coverageOf(coverage, picked);
  expect(Math.max(...truth)).toBeGreaterThan(0.9);
  expect(cutOf.layers.get('mask.first')!.planes[0]).toEqual(truth);
});

test('a mask by a ramp is cut of the data it names, within what is picked where anything is', async () => {
  const depth = layers.layers.get('depth')!.planes[0];
  const near = Math.min(...depth);
  const ramp = { layer: 'depth', channel: 'Z', from: near + 0.5, to: near };
  const [first] = scene.document.objects;
  const picked = { names: [first.name], numbers: [1] };
  const masks = { 'mask.near': { picked: null, ramp }, 'mask.first': { picked, ramp } };
  const how = { masks, depth: 'half', compression: 'zip', parting: 'many' } as const;
  const { layers: own, file } = await cut({ ...how, layers: ['mask.near', 'mask.first'] });
  const led = depth.map((z) => Math.min(1, Math.max(0, (near + 0.5 - z) / 0.5)));
  expect(led.filter((v) => v > 0.1 && v < 0.9).length).toBeGreaterThan(10);
  const off = (name: string, truth: (i: number) => number) =>
    Math.max(...own.get(name)!.planes[0].map((v, i) => Math.abs(v - truth(i))));
  expect(off('mask.near', (i) => led[i])).toBeLessThan(1e-5);
  const share = coverageOf(layers.layers.get('coverage')!, picked);
  expect(off('mask.first', (i) => led[i] * share[i])).toBeLessThan(1e-5);
  const said = file.parts.find((p) => p.name === 'mask.near')!.attributes['lantern:ramp'];
  expect(said).toEqual({ type: 'string', value: `depth.Z from ${near + 0.5} to ${near}` });
});

test('openness is cut up to the reach that is asked for', async () => {
  const how = {
    layers: [OPENNESS.layer],
    depth: 'float' as const,
    compression: 'zip' as const,
    parting: 'many' as const,
  };
  const bands = layers.layers.get(OPENNESS.bands)!.planes;
  const near = await cut({ ...how, reachMetres: 0.5 });
  const far = await cut(how);
  const planeOf = ({ layers: own }: typeof near) => own.get(OPENNESS.layer)!.planes[0];
  expect(planeOf(near)).toEqual(opennessAt(bands, 0.5));
  expect(planeOf(far)).toEqual(opennessAt(bands, null));
  expect(Math.max(...planeOf(far))).toBeGreaterThan(0.9);
  expect(near.file.parts[0].attributes['lantern:reach']).toEqual({ type: 'string', value: '0.500 m' });
});

test('the remainder of a family is the picture less what the output writes of it, in whichever file; with it all adds up', async () => {
  const groups = places().flatMap((p) => (p.name.startsWith('group.') ? [p.name] : []));
  const written = ['beauty', groups[0], 'rest.group'];
  const how = { written, depth: 'float' as const, compression: 'zip' as const };
  const all = await cut({ ...how, layers: written, parting: 'many' });
  const alone = await cut({ ...how, layers: ['rest.group'], parting: 'one' });
  const rest = all.layers.get('rest.group')!.planes;
  expect(alone.layers.get('rest.group')!.planes).toEqual(rest);
  const own = (name: string) => layers.layers.get(name)!.planes[1];
  const truth = own('beauty').map((v, i) => v - own(groups[0])[i]);
  expect(Math.max(...truth)).toBeGreaterThan(0.01);
  rest[1].forEach((v, i) => {
    expect(v).toBeCloseTo(truth[i], 5);
  });
  expect(tally({ width: 40, height: 40, layers: all.layers }, 'group')).toMatchObject({
    parts: [groups[0], 'rest.group'],
  });
  const proof = (await proveCut(sql, stored.hash, places(), { ...how, layers: written }))!;
  expect(proof.group).toMatchObject({ parts: 2, addsUp: true });
  const without = (await proveCut(sql, stored.hash, places(), { ...how, layers: ['beauty', groups[0]] }))!;
  expect(without.group).toBeNull();
});

test('an output is packed and read back: float gives every bit, half rounds, and both add up', async () => {
  const wanted = places().map((p) => p.name);
  const cutOf = (depth: How['depth'], some = wanted) =>
    proveCut(sql, stored.hash, places(), { layers: some, depth, compression: 'zip' });
  const [float, half] = [(await cutOf('float'))!, (await cutOf('half'))!];
  expect(float.parts.filter((p) => p.decibels !== null)).toEqual([]);
  expect(float.group).toMatchObject({
    addsUp: true,
    parts: places().filter((p) => p.name.startsWith('group.')).length,
  });
  expect(half.class).toMatchObject({ addsUp: true });
  const beauty = half.parts.find((p) => p.name === 'rgba')!;
  expect(beauty.type).toBe('half');
  // Eleven bits: an error of 2^-12 of the value at most, and about a third of that in the root mean square.
  expect(beauty.decibels!).toBeLessThan(20 * Math.log10(2 ** -11));
  expect(beauty.decibels!).toBeGreaterThan(20 * Math.log10(2 ** -15));
  expect(half.bytes).toBeLessThan(float.bytes);
  expect(half.bytes).toBe(half.parts.reduce((n, p) => n + p.bytes, 0));
  // Without one of the groups there is nothing to tally.
  const less = wanted.filter((n) => n !== wanted.find((g) => g.startsWith('group.')));
  expect((await cutOf('half', less))!.group).toBeNull();
  expect(
    await proveCut(sql, '0'.repeat(64), places(), { layers: ['beauty'], depth: 'half', compression: 'zip' }),
  ).toBeNull();
});

test('floats rounded by their packing do not add up: it is named, and packed as ZIP they do', async () => {
  const wanted = places().map((p) => p.name);
  const how = { layers: wanted, depth: 'float' as const };
  const lossy = (await proveCut(sql, stored.hash, places(), { ...how, compression: 'pxr24' }))!;
  expect([lossy.cause, lossy.group!.addsUp]).toEqual(['packing', false]);
  // Fifteen bits and a half of the fraction are kept, of depth and ids all.
  const group = lossy.parts.find((p) => p.name.startsWith('group.'))!;
  expect(group.decibels!).toBeLessThan(20 * Math.log10(2 ** -15));
  expect(lossy.parts.find((p) => p.name === 'depth')!.decibels).toBeNull();
  const dwa = (await proveCut(sql, stored.hash, places(), { ...how, depth: 'half', compression: 'dwaa' }))!;
  expect([dwa.cause, dwa.group!.addsUp]).toEqual(['packing', false]);
  expect(dwa.group!.failing!.share).toBeGreaterThan(0.01);
  expect(dwa.parts.find((p) => p.name === 'depth')!.decibels).toBeNull();
  const zip = (await proveCut(sql, stored.hash, places(), { ...how, depth: 'half', compression: 'zip' }))!;
  expect([zip.cause, zip.group!.addsUp]).toEqual([null, true]);
  const exact = (await proveCut(sql, stored.hash, places(), { ...how, compression: 'piz' }))!;
  expect([exact.cause, exact.group!.addsUp]).toEqual([null, true]);
});

test('what is not there is said to be not there', async () => {
  const gone = '0'.repeat(64);
  const how: How = { layers: ['beauty'], depth: 'half', compression: 'zip', parting: 'one' };
  expect(await cutFilm(sql, gone, how)).toBeNull();
  expect(await planarLayer(sql, gone, places()[0])).toBeNull();
});

test('reading that is given up in the middle leaves the store usable', async () => {
  const how: How = { layers: places().map((p) => p.name), depth: 'float', compression: 'none', parting: 'many' };
  for await (const chunk of (await cutFilm(sql, stored.hash, how))!.bytes) {
    expect(chunk.length).toBeGreaterThan(0);
    break;
  }
  expect((await cut(how)).layers.has('beauty')).toBe(true);
});

describe('one layer as a PNG', () => {
  const still = async (layer: string, more: object = {}) => {
    const png = await stillOf(sql, stored.hash, { layers: [layer], ...more }, null, 1);
    return decode(png!);
  };

  test('holds data from 0 to 1 in sixteen bits, as it is', async () => {
    const { data, depth, channels, width, height } = await still('occlusion', { reachMetres: 1 });
    expect([depth, channels, width, height]).toEqual([16, 1, 40, 40]);
    const own = opennessAt(layers.layers.get(OPENNESS.bands)!.planes, 1);
    own.forEach((v, i) => {
      expect(Math.abs(data[i] / 65535 - v)).toBeLessThan(1e-5);
    });
    expect(
      (await still('mask.ball', { masks: { 'mask.ball': { picked: { names: ['ball'], numbers: [1] }, ramp: null } } }))
        .depth,
    ).toBe(16);
  });

  test('holds light in eight, as the display shows it', async () => {
    const { data, depth } = await still('beauty');
    expect(depth).toBe(8);
    const [r, g, b] = layers.layers.get('beauty')!.planes;
    const shown = new Uint8ClampedArray(r.length * 4);
    toDisplayBytes(r, g, b, r.length, 1, shown);
    expect(Buffer.from(data as Uint8Array).equals(Buffer.from(shown))).toBe(true);
  });

  test('holds no data of other ranges', async () => {
    await expect(still('depth')).rejects.toThrow('depth is no data from 0 to 1: take it as OpenEXR');
    await expect(still('occlusion_bands')).rejects.toThrow('take it as OpenEXR');
  });

  test('or all that have one as files of one .zip, the same bytes each', async () => {
    const asked = { layers: ['beauty', 'depth', 'occlusion', 'group.bulb'], reachMetres: 1 };
    const parts: Uint8Array[] = [];
    for await (const piece of stillsZip(sql, stored.hash, asked, null, 1, 'rock_07')) parts.push(piece.slice());
    const path = join(mkdtempSync(join(tmpdir(), 'lantern-stills-')), 'stills.zip');
    writeFileSync(path, Buffer.concat(parts));
    const code =
      'import sys,zipfile,hashlib;z=zipfile.ZipFile(sys.argv[1]);z.testzip();[print(n,hashlib.sha256(z.read(n)).hexdigest()) for n in z.namelist()]';
    const told = execFileSync('python3', ['-c', code, path]).toString().trim().split('\n');
    const hash = async (layer: string) =>
      sha256((await stillOf(sql, stored.hash, { ...asked, layers: [layer] }, null, 1))!);
    expect(told).toEqual([
      `rock_07_beauty.png ${await hash('beauty')}`,
      `rock_07_occlusion.png ${await hash('occlusion')}`,
      `rock_07_group.bulb.png ${await hash('group.bulb')}`,
    ]);
  });
});
