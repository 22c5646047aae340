import fc from 'fast-check';
import { layersKept } from '../film';
import { PATH_CLASSES } from '../kernel';
import { BEAUTY_ALONE, parseRecipe } from '../recipe';
import {
  allFiles,
  allOf,
  apartByLayer,
  chosenOf,
  FIRST_OUTPUTS,
  filesOf,
  filmFor,
  fittedTo,
  type NamedBy,
  type Output,
  outputSchema,
  parseOutputs,
  pictureRecipe,
  possibleLayers,
  toggled,
  withMade,
  writes,
} from '.';

const GROUPS = ['lamp', 'night_sky', 'other'];
const recipe = parseRecipe({});
const bare = { ...recipe.film, ...BEAUTY_ALONE };
const output = (of: Partial<Output>): Output =>
  outputSchema.parse({ id: 'a', name: 'comp', layers: ['beauty'], ...of });
const by: NamedBy = {
  shot: 'quay-dawn',
  recipe: 'Final',
  camera: 'from the sea',
  frames: { first: 1, last: 48 },
  frame: 7,
  trial: 3,
  date: new Date(2031, 0, 9),
};

test('what a shot begins with asks nothing of the film that a recipe does not keep already', () => {
  expect(pictureRecipe(recipe, FIRST_OUTPUTS, null, GROUPS)).toBe(recipe);
  const { chosen, absent } = chosenOf(FIRST_OUTPUTS.list[0], layersKept(recipe.film, GROUPS));
  expect(absent).toEqual([]);
  for (const name of ['group.lamp', 'group.other', 'class.caustic', 'depth', 'coverage'])
    expect(chosen).toContain(name);
});

test('a film keeps what outputs write, whatever they write and whatever it kept before', () => {
  const all = possibleLayers(recipe.film, GROUPS, ['pair.lamp.caustic', 'pair.night_sky.direct_fog']);
  fc.assert(
    fc.property(fc.subarray(all), fc.boolean(), (layers, lean) => {
      const before = lean ? bare : recipe.film;
      const film = filmFor(before, layers, GROUPS);
      const has = withMade(layersKept(film, GROUPS), []);
      expect(chosenOf({ layers }, has)).toEqual({ chosen: has.filter((n) => layers.includes(n)), absent: [] });
      expect(has).toEqual(expect.arrayContaining(layersKept(before, GROUPS)));
      expect(filmFor(film, layers, GROUPS)).toBe(film);
      parseRecipe({ film });
    }),
    { seed: 2, numRuns: 60 },
  );
});

test('a film is asked for no more than what is missing', () => {
  expect(filmFor(bare, ['beauty', 'half_a', 'samples'], GROUPS)).toBe(bare);
  expect(filmFor(bare, ['motion'], GROUPS)).toEqual({ ...bare, features: ['motion'] });
  expect(filmFor(bare, [allOf('bounce')], GROUPS)).toEqual({ ...bare, ledger: 'all' });
  expect(filmFor({ ...bare, ledger: 'reach' }, ['bounce.02'], GROUPS).ledger).toBe('reach');
  expect(filmFor(bare, ['pair.lamp.caustic'], GROUPS).pairs).toEqual([{ group: 'lamp', class: 'caustic' }]);
  // Of a group that the shot has not there is nothing to keep.
  expect(filmFor(bare, ['pair.torch.caustic'], GROUPS)).toBe(bare);
});

test('a family stands for its layers, also those that come later; what is not there is told', () => {
  const own = output({ layers: ['beauty', allOf('group'), 'uv'] });
  const has = ['beauty', 'group.lamp', 'class.caustic'];
  expect(chosenOf(own, has)).toEqual({ chosen: ['beauty', 'group.lamp'], absent: ['uv'] });
  expect(chosenOf(own, [...has, 'group.torch']).chosen).toContain('group.torch');
  expect(chosenOf(output({ layers: [allOf('bounce')] }), has).absent).toEqual([allOf('bounce')]);
});

test('an output of another shot is taken without what this one has not, which is told', () => {
  const own = output({ layers: ['beauty', allOf('group'), 'group.torch', 'pair.torch.caustic', 'pair.lamp.caustic'] });
  const possible = possibleLayers(recipe.film, GROUPS, own.layers);
  const { output: fitted, misfits } = fittedTo(own, possible);
  expect(misfits).toEqual(['group.torch', 'pair.torch.caustic']);
  expect(fitted).toEqual({ ...own, layers: ['beauty', allOf('group'), 'pair.lamp.caustic'] });
  expect(fittedTo(fitted, possible)).toEqual({ output: fitted, misfits: [] });
});

test('a layer is taken in and left out again; leaving one out of a family names the others', () => {
  const all = possibleLayers(recipe.film, GROUPS);
  const own = { layers: ['beauty', allOf('class')] };
  const less = toggled(own, 'class.caustic', all);
  expect(less).toHaveLength(PATH_CLASSES.length);
  expect(all.filter((n) => writes({ layers: less }, n))).toEqual(
    all.filter((n) => n !== 'class.caustic' && writes(own, n)),
  );
  fc.assert(
    fc.property(fc.constantFrom(...all), (layer) => {
      const without = { layers: toggled(own, layer, all) };
      expect(writes(without, layer)).toBe(!writes(own, layer));
      const again = { layers: toggled(without, layer, all) };
      expect(all.filter((n) => writes(again, n))).toEqual(all.filter((n) => writes(own, n)));
    }),
    { seed: 4 },
  );
});

test('names are made of their parts; the frame has as many digits as it is given', () => {
  const names: Output['names'] = [
    { kind: 'shot' },
    { kind: 'text', text: '-' },
    { kind: 'camera' },
    { kind: 'text', text: '_v' },
    { kind: 'trial' },
    { kind: 'text', text: '_' },
    { kind: 'date' },
    { kind: 'text', text: '.' },
    { kind: 'frame', digits: 4 },
  ];
  const { files, faults } = filesOf(output({ names }), ['beauty'], by);
  expect(faults).toEqual([]);
  expect(files).toEqual([{ name: 'quay-dawn-from-the-sea_v03_20310109.0007.exr', layers: ['beauty'] }]);
  const strange = filesOf(output({ names: [{ kind: 'camera' }] }), ['beauty'], {
    ...by,
    camera: '../Ölhafen\n',
    frames: { first: 1, last: 1 },
  });
  expect(strange.files[0].name).toMatch(/^[A-Za-z0-9][A-Za-z0-9._-]*\.exr$/);
});

test('a file each for a family or a layer; alpha goes with the beauty, and every layer into one file', () => {
  const layers = ['beauty', 'group.lamp', 'group.other', 'class.caustic', 'alpha', 'depth'];
  const names: Output['names'] = [{ kind: 'layer' }, { kind: 'frame', digits: 2 }];
  const of = (grouping: Output['grouping']) => filesOf(output({ grouping, names }), layers, by).files;
  expect(of('family').map((f) => f.name)).toEqual(['beauty07.exr', 'groups07.exr', 'classes07.exr', 'data07.exr']);
  expect(of('family')[0].layers).toEqual(['beauty', 'alpha']);
  expect(of('layer').map((f) => f.name)).toContain('group_lamp07.exr');
  expect(of('one')).toHaveLength(1);
  for (const grouping of ['one', 'family', 'layer'] as const)
    expect(
      of(grouping)
        .flatMap((f) => f.layers)
        .sort(),
    ).toEqual([...layers].sort());
});

test('names that clash, now or over the frames, are told with what mends them', () => {
  const faults = (of: Partial<Output>, layers = ['beauty', 'depth']) => filesOf(output(of), layers, by).faults;
  expect(faults({ grouping: 'layer' })).toEqual([expect.stringContaining('add the part “layer”')]);
  expect(faults({ names: [{ kind: 'shot' }] })).toEqual([expect.stringContaining('add the part “frame”')]);
  expect(faults({ names: [{ kind: 'frame', digits: 1 }] })).toEqual([expect.stringContaining('frame 48')]);
  expect(faults({}, [])).toEqual(['comp writes no layer']);
  const twins = [
    output({ names: [{ kind: 'frame', digits: 4 }] }),
    output({ id: 'b', name: 'other', names: [{ kind: 'frame', digits: 4 }] }),
  ];
  const plans = allFiles(twins, (o) => o.layers, by);
  expect(plans.get('a')!.faults).toEqual([]);
  expect(plans.get('b')!.faults).toEqual([expect.stringContaining('add the part “output”')]);
});

test('names are told apart by layer behind the output, or at the end, once', () => {
  const own = apartByLayer(FIRST_OUTPUTS.list[0].names);
  const { files, faults } = filesOf(output({ names: own, grouping: 'layer' }), ['beauty', 'depth'], by);
  expect(faults).toEqual([]);
  expect(files.map((f) => f.name)).toEqual(['quay-dawn_comp_beauty_03.0007.exr', 'quay-dawn_comp_depth_03.0007.exr']);
  expect(apartByLayer(own)).toEqual(own);
  expect(apartByLayer([{ kind: 'shot' }]).map((c) => c.kind)).toEqual(['shot', 'text', 'layer']);
});

test('outputs are refused by the key that is wrong', () => {
  const fault = (value: unknown) => {
    try {
      parseOutputs(value);
    } catch (error) {
      return (error as Error).message;
    }
    return null;
  };
  const one = { id: 'a', name: 'comp', layers: ['beauty'] };
  expect(fault({ list: [one] })).toBeNull();
  expect(fault({ list: [one, { ...one, id: 'b' }] })).toBe('list.1.name: comp is there twice');
  expect(fault({ list: [{ ...one, layers: ['half_a.*'] }] })).toContain('list.0.layers.0');
  expect(fault({ list: [{ ...one, name: 'a/b' }] })).toContain('list.0.name');
  expect(fault({ list: [{ ...one, names: [{ kind: 'text', text: '/' }] }] })).toContain('list.0.names.0.text');
  expect(fault({ list: [{ ...one, bits: 16 }] })).toContain('bits');
});

test('a mask is a layer where the film keeps coverage, and a film keeps it for a mask', () => {
  const masks = [{ name: 'boat', of: [], ramp: null }];
  expect(withMade(['beauty'], masks)).toEqual(['beauty']);
  expect(withMade(['beauty', 'group.lamp'], [])).toEqual(['beauty', 'group.lamp', 'rest.group']);
  expect(filmFor({ ...parseRecipe({}).film, classes: false }, ['rest.class'], []).classes).toBe(true);
  expect(withMade(['beauty', 'coverage'], masks)).toEqual(['beauty', 'coverage', 'mask.boat']);
  const bare = { ...parseRecipe({}).film, features: [] };
  expect(possibleLayers(bare, [], [], masks)).toContain('mask.boat');
  expect(filmFor(bare, ['mask.boat'], []).features).toEqual(['coverage']);
  expect(filmFor(bare, ['mask.boat', 'coverage'], []).features).toEqual(['coverage']);
});

test('a mask by a ramp is a layer where the film keeps its data, and a film keeps those for it', () => {
  const ramp = { layer: 'roughness', channel: 'Y', from: 0.6, to: 0.2 };
  const { masks } = parseOutputs({
    list: [{ id: 'a', name: 'a', layers: ['mask.*'] }],
    masks: [
      { name: 'wet', ramp },
      { name: 'wet_boat', of: [{ kind: 'object', name: 'boat' }], ramp },
    ],
  });
  expect(withMade(['alpha', 'roughness'], masks)).toEqual(['alpha', 'roughness', 'mask.wet']);
  expect(withMade(['alpha', 'roughness', 'coverage'], masks).slice(3)).toEqual(['mask.wet', 'mask.wet_boat']);
  const bare = { ...parseRecipe({}).film, features: [] };
  expect(filmFor(bare, ['mask.wet'], [], masks).features).toEqual(['roughness', 'alpha']);
  expect(filmFor(bare, ['mask.*'], [], masks).features).toEqual(['roughness', 'alpha', 'coverage']);
  const fault = (change: object) => {
    try {
      parseOutputs({ list: [], masks: [{ name: 'wet', ramp: { ...ramp, ...change } }] });
      return null;
    } catch (error) {
      return (error as Error).message;
    }
  };
  expect(fault({ channel: 'X' })).toBe('masks.0.ramp.channel: the layer has no such channel');
  expect(fault({ layer: 'beauty' })).toContain('masks.0.ramp.layer');
  expect(fault({ layer: 'coverage' })).toContain('masks.0.ramp.layer');
});

test('two masks of one name are refused', () => {
  expect(() => parseOutputs({ list: [], masks: [{ name: 'a' }, { name: 'a' }] })).toThrow(
    'masks.1.name: a is there twice',
  );
});
