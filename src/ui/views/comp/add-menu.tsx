'use client';

import { type ReactNode, useMemo } from 'react';
import { toast } from 'sonner';
import {
  at,
  CUT_ALONE,
  freeName,
  gradeOfLook,
  type Lens,
  type Operation,
  type Place,
  readCube,
  SHOWN,
  shownIn,
  TableError,
  withAt,
} from '@/core/comp';
import { FAMILIES, type FamilyName, layerInfo } from '@/core/film';
import { possibleLayers } from '@/core/outputs';
import { cameraAt, type SceneDocument } from '@/core/scene';
import { two } from '@/core/words';
import { chooseFiles } from '../../import/choose';
import { useImport } from '../../import/import-store';
import { Menu, MenuHeading, MenuItem, MenuLine, MenuMore } from '../../parts/menu';
import { api } from '../../state/api';
import { useDesk } from '../../state/desk-store';
import { together } from '../../state/history';
import { useRecipe } from '../../state/recipe-store';
import { useCamera, useDocument, useSceneGroups } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { useStack } from '../../state/stack-store';
import type { Stacked } from '../../state/stacking';
import { tell } from '../../state/tell';
import { add, change } from './actions';
import { addFileLayer, bringFiles, filesOf, lightOf } from './files';
import { addDifference, addedParts, addLessTrial, useComparable } from './isolate';
import { freshOperation } from './operation-fields';
import { addVariantLayer, useVariantLayers } from './variant-layers';
import { OPERATION_NAMES } from './words';

const OPERATION_ORDER: readonly Operation['does'][] = [
  'exposure',
  'white',
  'contrast',
  'curves',
  'ranges',
  'saturation',
  'shoulder',
  'table',
  'focus',
  'haze',
  'soften',
  'sharpen',
  'vignette',
  'glow',
];

/** Where pictures of a shot are: plates, and pictures to look at. */
export function picturesOf(document: SceneDocument): string[] {
  const inPlates = new Set(document.plates.flatMap((p) => p.stills.map((s) => s.picture)));
  return [
    ...document.plates.map((p) => p.name),
    ...document.contents.filter((c) => c.use === 'reference' && !inPlates.has(c.name)).map((c) => c.name),
  ];
}

/** Brings in pictures as files, which become plates of the shot. */
export async function bringPictures(): Promise<void> {
  const files = await chooseFiles('.png,.jpg,.jpeg,.tif,.tiff,.exr,.hdr', true);
  useImport.getState().take(files.map((file) => ({ path: file.name, file })));
}

/** Adds a picture of the shot as a layer. */
export function addPicture(file: string, place: Place): void {
  together(`${file} in the stack`, () => putPicture(file, place));
}

function putPicture(file: string, place: Place): void {
  change(`${file} in the stack`, (s) => {
    const pictures = (s.pictures ?? {}) as object;
    const known = Object.entries(pictures).find(([, p]) => (p as { file: string }).file === file)?.[0];
    return known ? s : withAt(s, ['pictures'], { ...pictures, [freeName(pictures, file)]: { file } });
  });
  const pictures = useStack.getState().stack?.pictures as Record<string, { file: string }>;
  const [name] = Object.entries(pictures).find(([, p]) => p.file === file)!;
  add(file, place, { kind: 'layer', source: { from: 'picture', picture: name } });
}

/** Asks for a .cube file, checks it, and keeps it with the shot; null where none is chosen. */
export async function bringTable(): Promise<{ name: string; hash: string } | null> {
  const [file] = await chooseFiles('.cube', false);
  if (!file) return null;
  try {
    readCube(await file.text());
  } catch (error) {
    if (error instanceof TableError) throw new Error(`${file.name}: ${error.message}`);
    throw error;
  }
  const { hash } = await api.putContent(new Uint8Array(await file.arrayBuffer()));
  const wanted = file.name.replace(/\.cube$/i, '');
  return { name: freeName((useStack.getState().stack?.tables ?? {}) as object, wanted), hash };
}

/** Asks for a .cube file and adds it as a look table. */
async function addTable(place: Place, own: boolean): Promise<void> {
  const brought = await bringTable();
  if (!brought) return;
  const { name, hash } = brought;
  const operation = { does: 'table', table: name, encoding: 'srgb' };
  together(`look table ${name}`, () => {
    change(`look table ${name}`, (s) => withAt(s, ['tables', name], hash));
    add(`look table ${name}`, place, own ? operation : { kind: 'operation', operation });
  });
  toast.info(`${name}: say how light is encoded that goes into it; the file does not.`);
}

/** A lens for focus by depth as the camera has it. */
function useLens(frame: number): Lens {
  const camera = useCamera();
  const { width, height } = useDocument();
  const { position, target } = cameraAt(camera, frame);
  const metres = camera.focusMetres ?? Math.hypot(...target.map((v, k) => v - position[k]));
  return {
    metres: Number(metres.toPrecision(4)),
    fStop: camera.fStop > 0 ? camera.fStop : 2.8,
    focalMm: camera.focalLengthMm,
    sensorMm: Number(((camera.sensorWidthMm * height) / width).toPrecision(4)),
    blades: camera.blades,
    bladesDegrees: camera.bladesDegrees,
  };
}

const filmOf = (stacked: Stacked): string => shownIn(stacked.stack)[0] ?? SHOWN;

/** What can be done to a layer alone, or to all below. */
export function OperationMenu({
  stacked,
  place,
  own = false,
  trigger,
}: {
  stacked: Stacked;
  place: Place;
  own?: boolean;
  trigger: ReactNode;
}) {
  return (
    <Menu trigger={trigger}>
      <OperationItems stacked={stacked} place={place} own={own} />
    </Menu>
  );
}

function OperationItems({ stacked, place, own }: { stacked: Stacked; place: Place; own: boolean }) {
  const lens = useLens(stacked.frame);
  const items = OPERATION_ORDER.map((does) => (
    <MenuItem
      key={does}
      onSelect={() => {
        if (does === 'table') {
          void addTable(place, own).catch(tell);
          return;
        }
        const operation = freshOperation(does, filmOf(stacked), lens);
        add(OPERATION_NAMES[does], place, own ? operation : { kind: 'operation', operation });
      }}
    >
      {OPERATION_NAMES[does]}
      {does === 'table' && <span className="text-dim">.cube</span>}
    </MenuItem>
  ));
  return (
    <>
      {items}
      {!own && <LookItem place={place} />}
    </>
  );
}

/** Takes what the scene's look does into the stack, so that each of it can be masked, keyed and mixed; the display then does no more than cut. */
function LookItem({ place }: { place: Place }) {
  const { look } = useDocument();
  const space = useStack((s) => s.stack?.space ?? 'Rec.709');
  const grades = gradeOfLook(look);
  if (grades.length === 0 || space !== 'Rec.709') return null;
  return (
    <>
      <MenuLine />
      <MenuItem
        onSelect={() =>
          together('the scene’s look in the stack', () => {
            change('the scene’s look as grades', (s) => {
              const list = [...(at(s, place.list) as unknown[])];
              list.splice(place.index, 0, ...grades.map((g) => ({ kind: 'operation', ...g })));
              return withAt(s, place.list, list);
            });
            useScene
              .getState()
              .edit('look that cuts alone', (d) => ({ ...d, look: CUT_ALONE as SceneDocument['look'] }));
            useDesk.getState().set({ throughStack: true });
          })
        }
      >
        the scene’s look, as grades
      </MenuItem>
    </>
  );
}

/** Families that have layers of light. */
const SHOWN_FAMILIES: readonly FamilyName[] = ['beauty', 'group', 'class', 'pair', 'bounce', 'lost', 'rest'];
/** Those that films keep from the moment on at which a stack asks for them. */
const ON_DEMAND: readonly FamilyName[] = ['group', 'class'];
/** What holds light back, or is light to hold it against. */
const HOLD_BACK = ['occlusion', 'shadow', 'shadowing', 'unshadowed', 'albedo'];

/** Layers of a film that can be seen in a stack, by their families; `possible`: what films of the shot could keep. */
export function layersByFamily(
  kept: readonly string[],
  possible: readonly string[],
): { title: string; layers: string[] }[] {
  const of = (family: FamilyName) => {
    const from = ON_DEMAND.includes(family) ? [...new Set([...kept, ...possible])] : kept;
    return from.filter((n) => layerInfo(n).family === family);
  };
  const light = SHOWN_FAMILIES.map((f) => ({ title: FAMILIES[f].title, layers: of(f) }));
  return [...light, { title: 'Holds light back', layers: HOLD_BACK }].filter((f) => f.layers.length > 0);
}

const ALL_OF = 2;
/** Headings of families that sum to the picture. */
const SUMS = SHOWN_FAMILIES.filter((f) => FAMILIES[f].sums).map((f) => FAMILIES[f].title);

/** More than so many layers of a kind open beside their name. */
const MANY = 6;

/** Layers of a kind under their name. */
function Gathered({ title, count, children }: { title: string; count: number; children: ReactNode }) {
  if (count > MANY) return <MenuMore name={title}>{children}</MenuMore>;
  return (
    <>
      <MenuHeading>{title}</MenuHeading>
      {children}
    </>
  );
}

/** Adds a layer, a picture, a colour or an operation on top of the stack. */
export function AddMenu({ stacked, place, trigger }: { stacked: Stacked; place: Place; trigger: ReactNode }) {
  const document = useDocument();
  const film = filmOf(stacked);
  const groups = useSceneGroups();
  const recipe = useRecipe((s) => s.recipe);
  const possible = useMemo(() => (recipe ? possibleLayers(recipe.film, groups) : []), [recipe, groups]);
  const layer = (name: string) => ({ kind: 'layer', source: { from: 'film', film, layer: name } });
  const parts = addedParts(stacked.stack.entries, film).map((name) => ({ film, layer: name }));
  const trials = useComparable();
  const variants = useVariantLayers();
  const addAll = (title: string, names: readonly string[]) =>
    change(`all ${title.toLowerCase()}`, (s) => {
      const list = [...((s.entries as unknown[] | undefined) ?? [])];
      list.splice(place.index, 0, ...names.map(layer));
      return withAt(s, place.list, list);
    });
  return (
    <Menu trigger={trigger} width="min-w-56">
      {layersByFamily(stacked.kept, possible).map(({ title, layers }) => (
        <Gathered key={title} title={title} count={layers.length}>
          {layers.length >= ALL_OF && SUMS.includes(title) && (
            <MenuItem onSelect={() => addAll(title, layers)}>all of them</MenuItem>
          )}
          {layers.map((name) => (
            <MenuItem key={name} onSelect={() => add(layerInfo(name).words, place, layer(name))}>
              {layerInfo(name).words}
              {!stacked.kept.includes(name) && (
                <span className="text-dim">{stacked.isLive ? 'kept from then on' : 'not in this film'}</span>
              )}
            </MenuItem>
          ))}
        </Gathered>
      ))}
      {variants.length > 0 && <MenuHeading>Variants</MenuHeading>}
      {variants.map((v) => (
        <MenuMore key={v.name} name={v.name}>
          {layersByFamily(v.kept, v.possible).map(({ title, layers }) => (
            <Gathered key={title} title={title} count={layers.length}>
              {layers.map((name) => (
                <MenuItem key={name} onSelect={() => addVariantLayer(v.name, name, place)}>
                  {layerInfo(name).words}
                </MenuItem>
              ))}
            </Gathered>
          ))}
        </MenuMore>
      ))}
      <MenuLine />
      <MenuHeading>Isolate: what differs</MenuHeading>
      {parts.length > 0 && (
        <MenuItem onSelect={() => addDifference('picture less its parts here', place, film, parts)}>
          the picture less the parts that are in
        </MenuItem>
      )}
      {trials.map((t) => (
        <MenuItem key={t.id} onSelect={() => addLessTrial(t, place, film)}>
          the picture less {two(t.number)} {t.title}
        </MenuItem>
      ))}
      {parts.length === 0 && trials.length === 0 && (
        <MenuItem disabled>needs parts in the stack, or a trial of this size</MenuItem>
      )}
      <MenuLine />
      <MenuHeading>Files, pictures and plates</MenuHeading>
      {filesOf(document).map((file) => (
        <MenuMore key={file.name} name={file.name}>
          {lightOf(file).map((name) => (
            <MenuItem key={name} onSelect={() => addFileLayer(file, name, place)}>
              {name}
            </MenuItem>
          ))}
        </MenuMore>
      ))}
      <MenuItem onSelect={() => void bringFiles().catch(tell)}>layers of an OpenEXR file</MenuItem>
      {picturesOf(document).map((name) => (
        <MenuItem key={name} onSelect={() => addPicture(name, place)}>
          {name}
        </MenuItem>
      ))}
      <MenuItem onSelect={() => void bringPictures()}>from files</MenuItem>
      <MenuItem
        onSelect={() => add('a colour', place, { kind: 'layer', source: { from: 'solid', rgb: [0.18, 0.18, 0.18] } })}
      >
        a colour
      </MenuItem>
    </Menu>
  );
}
