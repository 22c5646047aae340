import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { readPicture } from '@/render/import/read-picture';
import { numbers } from '@/render/testing';
import { applied, between, chromaticitiesOf, decodeSrgb, encodeSrgb, encodeTiff, type Space, spaceOf } from '../image';
import {
  CUT_ALONE,
  evaluate,
  gradeOfLook,
  inPage,
  type Picture,
  pictureExr,
  plateOf,
  readCube,
  SCREENS,
  type Sources,
  type StackDisplay,
  screenLight,
  shownFile,
  shownValues,
  stackAt,
} from '.';
import { decodeAcescct, encodeAcescct } from './operations/encodings';

const folder = mkdtempSync(join(tmpdir(), 'lantern-shown-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

const [WIDTH, HEIGHT] = [37, 41];
const next = numbers(5);
const plane = (most: number) => Float32Array.from({ length: WIDTH * HEIGHT }, () => next() * most);
const picture: Picture = {
  width: WIDTH,
  height: HEIGHT,
  planes: [plane(1.4), plane(1.2), plane(1), plane(1).fill(1)],
};
const noTable = () => undefined;
const to = (screen: (typeof SCREENS)[number]): StackDisplay => ({ to: screen });
const single = (rgb: readonly number[]): Picture => ({
  width: 1,
  height: 1,
  planes: [Float32Array.of(rgb[0]), Float32Array.of(rgb[1]), Float32Array.of(rgb[2]), Float32Array.of(1)],
});

test('each screen gets light on its own channels, encoded as its standard has it', () => {
  const rgb = [0.5, 0.2, 0.1];
  for (const screen of SCREENS) {
    const by = { space: 'ACEScg' as const, display: to(screen) };
    const own: Space = screen === 'Display P3' ? 'Display P3' : 'Rec.709';
    const light = applied(between('ACEScg', own), rgb);
    screenLight(single(rgb), by).forEach((p, c) => {
      expect(p[0]).toBeCloseTo(light[c], 5);
    });
    // Dark enough that nothing is rolled off.
    const dark = light.map((v) => v * 0.5);
    const shown = shownValues(single(rgb), by, 0.5, noTable);
    dark.forEach((v, c) => {
      const encoded = screen === 'Rec.709' ? v ** (1 / 2.4) : encodeSrgb(v);
      expect(shown[c][0]).toBeCloseTo(Math.max(0, encoded), 4);
    });
  }
  expect(inPage({ space: 'ACEScg', display: to('Display P3') }).display).toEqual({ to: 'sRGB' });
});

test('a colour that sRGB does not have is told by a channel below 0, and is there on P3', () => {
  const [red] = [single(applied(between('Display P3', 'ACEScg'), [1, 0, 0]))];
  const on = (screen: (typeof SCREENS)[number]) =>
    screenLight(red, { space: 'ACEScg', display: to(screen) }).map((p) => p[0]);
  expect(Math.min(...on('sRGB'))).toBeLessThan(-0.01);
  expect(Math.min(...on('Display P3'))).toBeGreaterThan(-1e-5);
});

test('a table for the screen takes the place of the look, and is given light as it says', () => {
  // Half of what it is given, of channels the other way round.
  const swapped = readCube(
    `LUT_3D_SIZE 2\n${[0, 1, 2, 3, 4, 5, 6, 7].map((i) => `${(i >> 2) / 2} ${((i >> 1) & 1) / 2} ${(i & 1) / 2}`).join('\n')}`,
  );
  const by = (encoding: 'linear' | 'srgb' | 'ACEScct') => ({
    space: 'Rec.709' as const,
    display: { to: 'table' as const, table: 't', encoding },
  });
  const shown = (encoding: 'linear' | 'srgb' | 'ACEScct') =>
    shownValues(single([0.2, 0.4, 0.8]), by(encoding), 1, () => swapped).map((p) => p[0]);
  shown('linear').forEach((v, c) => {
    expect(v).toBeCloseTo([0.4, 0.2, 0.1][c], 6);
  });
  shown('srgb').forEach((v, c) => {
    expect(v).toBeCloseTo([0.8, 0.4, 0.2].map(encodeSrgb)[c] / 2, 6);
  });
  const aces = applied(between('Rec.709', 'ACEScg'), [0.2, 0.4, 0.8]);
  shown('ACEScct').forEach((v, c) => {
    expect(v).toBeCloseTo(encodeAcescct(aces[2 - c]) / 2, 5);
  });
  expect(() => shownValues(single([0, 0, 0]), by('linear'), 1, noTable)).toThrow('there is no table t');
  expect(() => stackAt({ display: { to: 'table', table: 't', encoding: 'linear' } }, 1)).toThrow(/no table t/);
});

test('ACEScct is as the Academy has it', () => {
  // S-2016-001: middle grey and the ends that it prints.
  expect(encodeAcescct(0.18)).toBeCloseTo(0.4135884, 6);
  expect(encodeAcescct(0)).toBeCloseTo(0.0729055, 6);
  expect(encodeAcescct(0.0078125)).toBeCloseTo(0.1552511, 6);
  for (const v of [-0.01, 0, 0.001, 0.0078125, 0.18, 1, 65504]) {
    const back = decodeAcescct(encodeAcescct(v));
    expect(Math.abs(back - v)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(v)));
  }
});

const oiio = (...args: string[]) => execFileSync('oiiotool', args, { encoding: 'utf8' });

test('TIFF and PNG of 16 bits: every word comes back, by ours and by another reader, and the screen with it', async () => {
  for (const screen of SCREENS) {
    const by = { space: 'Rec.709' as const, display: to(screen) };
    const words = shownValues(picture, by, 1, noTable).map((p) => p.map((v) => Math.round(v * 65535)));
    for (const as of ['tiff', 'png'] as const) {
      const path = at(`${screen}.${as}`);
      writeFileSync(path, shownFile(picture, as, by, 1, noTable));
      const read = await readPicture(path, readFileSync(path), nodeInflate);
      const own = screen === 'Display P3' ? 'Display P3' : 'Rec.709';
      // Without a profile it is sRGB, which needs no word.
      expect(read.primaries && spaceOf(read.primaries)).toBe(screen === 'sRGB' ? undefined : own);
      words.forEach((p, c) => {
        expect(p.every((v, i) => read.values[i * 3 + c] === v)).toBe(true);
      });
      const plain = at('plain.png');
      oiio(path, '-d', 'uint16', '-o', plain);
      const other = await readPicture(plain, readFileSync(plain), nodeInflate);
      words.forEach((p, c) => {
        expect(p.every((v, i) => other.values[i * 3 + c] === v)).toBe(true);
      });
      expect(oiio('--info', '-v', path)).toMatch(screen === 'sRGB' ? /16|uint16/ : /ICCProfile/);
    }
  }
});

test('TIFF of sides that fill no strip, and of 65,536 levels', () => {
  const levels = Uint16Array.from({ length: 65536 * 3 }, (_, i) => Math.floor(i / 3));
  writeFileSync(at('levels.tif'), encodeTiff(256, 256, levels));
  oiio(at('levels.tif'), '--ch', 'R', '-d', 'uint16', '-o', at('levels.png'));
  const stats = oiio('--stats', at('levels.png'));
  expect(stats).toMatch(/Stats Min: 0/);
  expect(stats).toMatch(/Stats Max: 65535/);
  expect(stats).toMatch(/Stats Avg: 32767\.5/);
});

test('a plate is led to the working space once, by its file’s word or by another', async () => {
  const bytes = shownFile(picture, 'png', { space: 'Rec.709', display: to('Display P3') }, 1, noTable);
  const read = await readPicture('p3.png', bytes, nodeInflate);
  const plate = { encoding: 'srgb', alpha: 'as the file says', space: 'as the file says' } as const;
  const own = (i: number, c: number) => decodeSrgb(read.values[i * 3 + c] / 65535);
  for (const [space, from] of [
    ['as the file says', 'Display P3'],
    ['ACES2065-1', 'ACES2065-1'],
    ['Rec.709', 'Rec.709'],
  ] as const)
    for (const working of ['Rec.709', 'ACEScg'] as const) {
      const { planes } = plateOf(read, { ...plate, space }, working);
      for (const i of [0, 100, 999]) {
        const want = applied(
          between(from, working),
          [0, 1, 2].map((c) => own(i, c)),
        );
        want.forEach((v, c) => {
          expect(planes[c][i]).toBeCloseTo(v, 5);
        });
      }
    }
});

test('a stack in ACEScg: films are led there, colours that it names too, and the file says so', async () => {
  const entries = [
    { kind: 'layer', source: { from: 'solid', rgb: [0.2, 0.4, 0.1] } },
    { kind: 'operation', operation: { does: 'saturation', amount: 0 } },
  ];
  const sources: Sources = {
    width: 1,
    height: 1,
    light: () => single([1, 1, 1]),
    mask: () => Float32Array.of(1),
    depth: () => Float32Array.of(1),
    table: () => {
      throw new Error('no table');
    },
  };
  const y = 0.2126 * 0.2 + 0.7152 * 0.4 + 0.0722 * 0.1;
  for (const space of ['Rec.709', 'ACEScg'] as const) {
    const stack = stackAt({ space, entries }, 1);
    const made = evaluate(stack, sources);
    // Luminance is that of the light, whatever it is written in.
    for (let c = 0; c < 3; c++) expect(made.planes[c][0]).toBeCloseTo(y, 2);
    const file = await pictureExr(made, { stack: '', header: null, space }, nodeDeflate);
    const read = await readPicture('made.exr', file, nodeInflate);
    expect(read.primaries?.map((v) => Math.fround(v))).toEqual(chromaticitiesOf(space).map((v) => Math.fround(v)));
  }
});

test('the look of a scene as grades of the stack comes to the same picture', () => {
  const look = {
    whiteKelvin: 4300,
    contrast: 1.25,
    shoulder: 0.55,
    curve: [[0.3, 0.36] as const, [0.7, 0.66] as const],
  };
  const by = { space: 'Rec.709' as const, display: to('sRGB') };
  const entries = [
    { kind: 'layer', source: { from: 'picture', picture: 'p' } },
    ...gradeOfLook(look).map(({ operation }) => ({ kind: 'operation', operation })),
  ];
  const sources = {
    width: WIDTH,
    height: HEIGHT,
    light: () => picture,
    mask: () => plane(1),
    depth: () => plane(1),
    table: () => {
      throw new Error('no table');
    },
  };
  const graded = evaluate(stackAt({ entries }, 1), sources);
  const want = shownValues(picture, by, { scale: 1, look }, noTable);
  shownValues(graded, by, { scale: 1, look: CUT_ALONE }, noTable).forEach((p, c) => {
    const off = p.reduce((most, v, i) => Math.max(most, Math.abs(v - want[c][i])), 0);
    // A third of a step of eight bits: tables of the loops are no finer.
    expect(off).toBeLessThan(1 / 765);
  });
});
