'use client';

import { type Path, SHOWN, type Stack, shownIn } from '@/core/comp';
import { LAYER, layerInfo } from '@/core/film';
import type { Mask } from '@/core/outputs';
import { type Content, coverageNames } from '@/core/scene';
import { words } from '@/core/words';
import { Choice } from '../../fields/choice';
import { NamesField } from '../../fields/names-field';
import { Toggle } from '../../fields/toggle';
import { Word } from '../../parts/controls';
import { Menu, MenuHeading, MenuItem, MenuLine } from '../../parts/menu';
import { useDesk } from '../../state/desk-store';
import { together } from '../../state/history';
import { useOutputs } from '../../state/outputs-store';
import { useDocument } from '../../state/scene-now';
import type { Stacked } from '../../state/stacking';
import { addMask, change, put } from './actions';
import { FieldRow, StackNumber } from './field';
import { dataOf, filesOf, filmOfFile } from './files';
import type { NumberOf } from './operation-fields';

type Item = Stack['masks'][string]['of'][number];

const EVERYWHERE = '';
const NO_MASKS: readonly Mask[] = [];

const number = (label: string, unit: string, limits: [number, number, number], per = 1): NumberOf => ({
  kind: 'number',
  at: [],
  label,
  unit,
  least: limits[0],
  most: limits[1],
  step: limits[2],
  per,
});
const PART = (label: string) => number(label, '%', [-1000, 1000, 1], 0.01);

/** Numbers of an item of a mask, each with where it stands in it. */
function numbersOf(item: Item): { at: Path; value: number; of: NumberOf }[] {
  const two = (key: string, [a, b]: readonly number[], x: string, y: string) => [
    { at: [key, 0], value: a, of: PART(x) },
    { at: [key, 1], value: b, of: PART(y) },
  ];
  switch (item.kind) {
    case 'picked':
      return [];
    case 'ramp': {
      const unit = layerInfo(item.layer).unit;
      return [
        { at: ['low'], value: item.low, of: number('0 up to', unit, [-1e9, 1e9, 0.1]) },
        { at: ['high'], value: item.high, of: number('1 from', unit, [-1e9, 1e9, 0.1]) },
      ];
    }
    case 'ellipse':
      return [
        ...two('center', item.center, 'middle, across', 'middle, down'),
        ...two('radius', item.radius, 'half as wide', 'half as high'),
        { at: ['turnDegrees'], value: item.turnDegrees, of: number('turned', '°', [-3600, 3600, 1]) },
        { at: ['feather'], value: item.feather, of: PART('soft edge') },
      ];
    case 'polygon':
      return [{ at: ['feather'], value: item.feather, of: PART('soft edge') }];
    case 'gradient':
      return [
        ...two('from', item.from, '0 at, across', '0 at, down'),
        ...two('to', item.to, '1 at, across', '1 at, down'),
      ];
  }
}

const ITEM_WORDS: Record<Item['kind'], string> = {
  picked: 'things',
  ramp: 'data',
  ellipse: 'an ellipse',
  polygon: 'a polygon',
  gradient: 'a gradient',
};
const itemWords = (item: Item): string => (item.kind === 'ramp' ? layerInfo(item.layer).words : ITEM_WORDS[item.kind]);

/** Data planes that make masks, with the channel and the ramp that one begins with. */
const RAMPS: readonly { layer: string; channel: string; low: number; high: number; label: string }[] = [
  { layer: 'depth', channel: 'Z', low: 2, high: 10, label: 'depth' },
  { layer: 'roughness', channel: 'Y', low: 0.6, high: 0.1, label: 'roughness' },
  { layer: 'P', channel: 'Y', low: 0, high: 2, label: 'height' },
  { layer: 'Nc', channel: 'Z', low: 0, high: 1, label: 'facing the camera' },
  { layer: 'N', channel: 'Y', low: 0, high: 1, label: 'facing up' },
  { layer: 'occlusion', channel: 'Y', low: 0.2, high: 0.9, label: 'openness' },
];

/** What can begin a mask, or be joined to one. */
function ItemMenu({
  label,
  onAdd,
  film,
}: {
  label: string;
  onAdd: (name: string, item: object) => void;
  film: string;
}) {
  const own = useOutputs((s) => s.outputs?.masks ?? NO_MASKS);
  return (
    <Menu trigger={<Word className="!px-0 underline">{label}</Word>}>
      {own.length > 0 && <MenuHeading>Masks of the shot</MenuHeading>}
      {own.map((m) => (
        <MenuItem
          key={m.name}
          onSelect={() =>
            onAdd(words(m.name), { kind: 'ramp', film, layer: LAYER.mask(m.name), channel: 'Y', low: 0, high: 1 })
          }
        >
          {words(m.name)}
        </MenuItem>
      ))}
      <MenuItem onSelect={() => onAdd('things', { kind: 'picked', film, names: [] })}>
        things clicked in the picture
      </MenuItem>
      <MenuHeading>By data</MenuHeading>
      {RAMPS.map(({ label: name, ...ramp }) => (
        <MenuItem key={name} onSelect={() => onAdd(name, { kind: 'ramp', film, ...ramp })}>
          {name}
        </MenuItem>
      ))}
      {useDocumentFiles().map((file) => (
        <FileItems key={file.name} file={file} onAdd={onAdd} />
      ))}
      <MenuLine />
      <MenuHeading>Drawn</MenuHeading>
      <MenuItem
        onSelect={() => onAdd('ellipse', { kind: 'ellipse', center: [0.5, 0.5], radius: [0.4, 0.3], feather: 0.1 })}
      >
        an ellipse
      </MenuItem>
      <MenuItem onSelect={() => onAdd('gradient', { kind: 'gradient', from: [0.5, 1], to: [0.5, 0] })}>
        a gradient
      </MenuItem>
      <MenuItem
        onSelect={() =>
          onAdd('polygon', {
            kind: 'polygon',
            points: [
              [0.3, 0.3],
              [0.7, 0.3],
              [0.7, 0.7],
              [0.3, 0.7],
            ],
            feather: 0.02,
          })
        }
      >
        a polygon
      </MenuItem>
    </Menu>
  );
}

/** Files of layers that have what masks are made of. */
const useDocumentFiles = () => filesOf(useDocument()).filter((f) => f.things || dataOf(f).length > 0);

/** What of a file can begin a mask: the things that it tells apart, and its data. */
function FileItems({ file, onAdd }: { file: Content; onAdd: (name: string, item: object) => void }) {
  const begin = (name: string, item: object) =>
    together(`mask by ${file.name}`, () => onAdd(name, { ...item, film: filmOfFile(file.name) }));
  return (
    <>
      <MenuHeading>{file.name}</MenuHeading>
      {file.things && (
        <MenuItem onSelect={() => begin(`things in ${file.name}`, { kind: 'picked', names: [] })}>its things</MenuItem>
      )}
      {dataOf(file).map(({ layer, channel }) => (
        <MenuItem
          key={`${layer} ${channel}`}
          onSelect={() => begin(layer, { kind: 'ramp', layer, channel, low: 0, high: 1 })}
        >
          {layer} {channel}
        </MenuItem>
      ))}
    </>
  );
}

/** Where an entry takes effect: its mask, and what that is made of. */
export function MaskRows({ stacked, mask, path }: { stacked: Stacked; mask: string | null; path: Path }) {
  const { stack, frame, document } = stacked;
  const film = shownIn(stack)[0] ?? SHOWN;
  const own = mask === null ? null : stack.masks[mask];
  const base = ['masks', mask ?? ''];
  const names = Object.keys(stack.masks);
  const isLookedAt = useDesk((s) => mask !== null && s.stackMask === mask);
  const objects = coverageNames(useDocument());
  return (
    <div className="border-t border-line pt-0.5" data-testid="mask-rows">
      <div className="flex min-h-[24px] items-center gap-2">
        <span className="flex-1 text-soft">where</span>
        {names.length > 0 && (
          <Choice
            label="mask"
            value={mask ?? EVERYWHERE}
            placeholder="everywhere"
            options={names}
            onChange={(v) => put(`where ${v}`, [...path, 'mask'], v, frame, false)}
          />
        )}
        {names.length === 0 && <span className="text-dim">everywhere</span>}
        {mask !== null && (
          <Word
            on={isLookedAt}
            className="text-[11px]"
            onClick={() => useDesk.getState().set({ stackMask: isLookedAt ? null : mask })}
          >
            look at it
          </Word>
        )}
        <ItemMenu label="new mask" film={film} onAdd={(name, item) => addMask(path, name, [item])} />
      </div>
      {own && (
        <>
          {own.of.map((item, i) => (
            <div key={i} className="pl-2">
              <div className="flex min-h-[24px] items-center gap-1.5">
                {i > 0 ? (
                  <Choice
                    label={`how ${itemWords(item)} joins`}
                    value={item.how}
                    options={[
                      { value: 'with', label: 'and' },
                      { value: 'without', label: 'but not' },
                      { value: 'within', label: 'within' },
                    ]}
                    onChange={(v) => put(`mask: ${v}`, [...base, 'of', i, 'how'], v, frame, false)}
                  />
                ) : (
                  <span className="text-dim">of</span>
                )}
                <span className="flex-1">{itemWords(item)}</span>
                <Word
                  on={item.invert}
                  className="text-[11px]"
                  onClick={() => put('mask: the other way', [...base, 'of', i, 'invert'], !item.invert, frame, false)}
                >
                  outside
                </Word>
                {own.of.length > 1 && (
                  <Word
                    className="!px-0 text-[11px]"
                    onClick={() =>
                      change('less in the mask', (s) => ({
                        ...s,
                        masks: {
                          ...(s.masks as object),
                          [mask!]: {
                            ...own,
                            of: (document.masks as Stack['masks'])[mask!].of.filter((_, k) => k !== i),
                          },
                        },
                      }))
                    }
                  >
                    take away
                  </Word>
                )}
              </div>
              {item.kind === 'picked' && (
                <div className="flex items-center gap-2 pb-0.5">
                  <NamesField
                    label={`things in ${mask}`}
                    none={item.film === film ? 'click them in the picture' : 'none yet'}
                    value={item.names}
                    options={stacked.over.files[item.film]?.content.things ?? objects}
                    onChange={(v) => put(`things in ${mask}`, [...base, 'of', i, 'names'], v, frame, false)}
                  />
                </div>
              )}
              {numbersOf(item).map(({ at, value, of }) => (
                <FieldRow
                  key={of.label}
                  label={of.label}
                  path={[...base, 'of', i, ...at]}
                  value={value}
                  frame={frame}
                  name={mask!}
                >
                  <span className="whitespace-nowrap">
                    <StackNumber path={[...base, 'of', i, ...at]} value={value} frame={frame} of={of} name={mask!} />
                    <span className="text-soft"> {of.unit}</span>
                  </span>
                </FieldRow>
              ))}
            </div>
          ))}
          <div className="flex min-h-[24px] items-center gap-2 pl-2">
            <ItemMenu
              label="and more"
              film={film}
              onAdd={(name, item) => put(`${name} in the mask`, [...base, 'of', own.of.length], item, frame, false)}
            />
            <span className="flex-1" />
            <span className="text-soft">all of it the other way</span>
            <Toggle
              label={`${mask} the other way`}
              on={own.invert}
              onChange={(on) => put('mask the other way', [...base, 'invert'], on, frame, false)}
            />
          </div>
        </>
      )}
    </div>
  );
}
