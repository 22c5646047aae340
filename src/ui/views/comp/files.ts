import { toast } from 'sonner';
import { freeName, OF_FILE, type Place, type Stack, withAt } from '@/core/comp';
import { layerInfo } from '@/core/film';
import type { Content, SceneDocument } from '@/core/scene';
import { counted } from '@/core/words';
import { chooseFiles } from '../../import/choose';
import { importLayers } from '../../import/import-client';
import { together } from '../../state/history';
import { useScene } from '../../state/scene-store';
import { useStack } from '../../state/stack-store';
import { add, change } from './actions';

/** Files of layers that the shot has. */
export const filesOf = ({ contents }: SceneDocument): Content[] => contents.filter((c) => c.use === 'layers');

/** Layers of a file that are light, or colours: three channels at least. */
export const lightOf = ({ layers = [] }: Content): string[] =>
  layers.filter((l) => ['R', 'G', 'B'].every((c) => l.channels.includes(c))).map((l) => l.name);

/** Planes of a file that are data, each by its layer and channel. */
export const dataOf = ({ layers = [] }: Content): { layer: string; channel: string }[] =>
  layers
    .filter((l) => l.name !== 'coverage' && !l.channels.includes('R'))
    .flatMap((l) => l.channels.map((channel) => ({ layer: l.name, channel })));

/** Brings in OpenEXR files as they are, so that stacks may take their layers. */
export async function bringFiles(): Promise<void> {
  for (const file of await chooseFiles('.exr', true)) {
    const content = await importLayers(file);
    const { contents } = useScene.getState().document!;
    const known = contents.find((c) => c.use === 'layers' && c.hash === content.hash);
    if (!known) {
      const names = Object.fromEntries(contents.map((c) => [c.name, true]));
      const named = { ...content, name: freeName(names, content.name) };
      useScene.getState().edit(`file ${named.name}`, (d) => ({ ...d, contents: [...d.contents, named] }));
    }
    toast.success(`${file.name}: ${counted(content.layers?.length ?? 0, 'layer')}, ${content.width}×${content.height}`);
  }
}

/** The name that the stack has for a film that is somewhere; it is given one like `wanted` where it has none. */
export function filmAt(where: string, wanted: string, words: string): string {
  const films = () => (useStack.getState().stack?.films ?? {}) as Stack['films'];
  const known = Object.entries(films()).find(([, at]) => at === where)?.[0];
  if (known) return known;
  const name = freeName(films(), wanted.slice(0, 110));
  change(words, (s) => withAt(s, ['films', name], where));
  return name;
}

/** The name that the stack has for a file as a film. */
export const filmOfFile = (file: string): string => filmAt(`${OF_FILE}${file}`, file, `file ${file}`);

/** Adds a layer of a file. What it is by its name joins as that does; any other light is added. */
export function addFileLayer(file: Content, layer: string, place: Place): void {
  together(`${layer} of ${file.name}`, () => {
    const film = filmOfFile(file.name);
    const isKnown = layerInfo(layer).family !== 'feature' || layerInfo(layer).data;
    const way = isKnown ? {} : { way: 'add' };
    const source = { from: 'film', film, layer };
    add(`${layer} of ${file.name}`, place, {
      kind: 'layer',
      name: `${file.name} ${layer}`.slice(0, 120),
      ...way,
      source,
    });
  });
}

/** Says what primaries a film has, or takes that back. */
export const sayPrimaries = (film: string, space: string | null): boolean =>
  change(`${film} is ${space ?? 'as its file says'}`, (s) => withAt(s, ['spaces', film], space ?? undefined));
