import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { SHOTS } from '../../shots';
import { applyOverlay, OverlayError, parseOverlay } from '..';

const base = SHOTS['lantern-room']();
const apply = (change: Record<string, unknown>) =>
  applyOverlay(base, parseOverlay({ schema: 1, base: 'lantern-room', ...change }));

test('known names take what is given and keep the rest; new names are added', () => {
  const { document } = apply({
    lights: [
      { name: 'work lamp', stops: 2 },
      { name: 'torch', kind: 'point', power: 5, position: [0, 1, 0] },
    ],
    materials: [{ name: 'brass', specular_roughness: 0.1 }],
    objects: [{ name: 'dials', material: 'brass' }],
  });
  const before = base.document.lights.find((l) => l.name === 'work lamp')!;
  expect(document.lights.find((l) => l.name === 'work lamp')).toEqual({ ...before, stops: 2 });
  expect(document.lights.at(-1)).toMatchObject({ name: 'torch', kind: 'point', unit: 'candela', stops: 0 });
  expect(document.lights).toHaveLength(base.document.lights.length + 1);
  expect(document.materials.find((m) => m.name === 'brass')).toMatchObject({
    specular_roughness: 0.1,
    base_metalness: 1,
  });
});

test('the example of the documentation is one', () => {
  const text = readFileSync(join(__dirname, '../../../../docs/scene.md'), 'utf8');
  const example = JSON.parse(/```json\n([\s\S]*?)```/.exec(text)![1]);
  const { document } = applyOverlay(base, parseOverlay(example));
  expect(document.lights.find((l) => l.name === 'burner flame')).toMatchObject({
    stops: 1,
    gains: { mirrors: 0.5, seen: 1 },
  });
  expect(document.fogs).toMatchObject([{ name: 'fog', density: 0.06 }]);
});

test('fog and environment are taken away by null, kept by silence', () => {
  expect(apply({}).document.fogs).toEqual(base.document.fogs);
  expect(base.document.fogs).toHaveLength(1);
  expect(apply({ fog: null }).document.fogs).toEqual([]);
  expect(apply({ fogs: [{ name: 'bank', density: 0.4 }] }).document.fogs.map((f) => [f.name, f.density])).toEqual([
    ['fog', base.document.fogs[0].density],
    ['bank', 0.4],
  ]);
  expect(apply({ environment: null }).document.environment).toBeNull();
  expect(apply({ environment: { kind: 'sky' } }).document.environment).toMatchObject({ kind: 'sky', turbidity: 3 });
});

test('an index of refraction may be named', () => {
  const { document } = apply({ materials: [{ name: 'lens glass', specular_ior: 'flint glass' }] });
  expect(document.materials.find((m) => m.name === 'lens glass')!.specular_ior).toBe(1.62);
});

test.each<[Record<string, unknown>, string]>([
  [{ fogg: {} }, 'fogg: unknown key'],
  [{ fog: { density: -1 } }, 'fog.density'],
  [{ lights: [{ name: 'torch', kind: 'candle' }] }, 'lights.torch.kind'],
  [{ materials: [{ name: 'brass', shine: 1 }] }, 'materials.brass.shine: unknown key'],
  [{ objects: [{ name: 'ladder' }] }, 'objects.ladder: the base has no object of this name'],
  [{ objects: [{ name: 'dials', material: 'gold' }] }, 'objects.dials.material: no material gold'],
])('%j is refused by its key', (change, message) => {
  expect(() => apply(change)).toThrow(message);
  expect(() => apply(change)).toThrow(OverlayError);
});
