'use client';

import { useEffect, useMemo, useRef } from 'react';
import { toast } from 'sonner';
import {
  addSurface,
  type Material,
  type SceneDocument,
  STARTER_SURFACES,
  TEXTURE_INPUTS,
  type TextureInput,
} from '@/core/scene';
import { Choice } from '../../fields/choice';
import { NumberField } from '../../fields/number-field';
import { chooseFiles } from '../../import/choose';
import { importPicture } from '../../import/import-client';
import { Plain, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useDocument } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';

const SWATCH_PX = 132;
const SWATCH_AFTER_MS = 150;

/** The part of a document that a swatch of a material needs. */
function swatchDocument(document: SceneDocument, material: Material): SceneDocument {
  return { ...document, materials: [material], objects: [], lights: [], environment: null, rigs: [], forms: [] };
}

/** A material on a ball, rendered by the kernel. */
export function Swatch({ material, size = SWATCH_PX }: { material: Material; size?: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const document = useDocument();
  const asked = useMemo(() => ({ document: swatchDocument(document, material), size }), [document, material, size]);
  // Another edit of the scene changes nothing on the ball: what counts is the material and the pictures.
  const of = JSON.stringify([material, document.contents, document.geometry.hash]);
  const { answer: picture, fault } = useAsk('swatch', asked, { of, afterMs: SWATCH_AFTER_MS, keep: true, byOf: true });
  useEffect(() => {
    if (!picture) return;
    const { width, height, pixels } = picture;
    canvas.current?.getContext('2d')?.putImageData(new ImageData(pixels, width, height), 0, 0);
  }, [picture]);
  return (
    <>
      <canvas
        ref={canvas}
        width={size}
        height={size}
        role="img"
        aria-label={`${material.name} on a ball`}
        className="rounded-sm bg-pit"
        style={{ width: size, height: size }}
      />
      {fault && <span className="text-[11px] text-dim">{fault}</span>}
    </>
  );
}

function assign(names: readonly string[], material: string): void {
  const fault = useScene
    .getState()
    .edit(`${material} to ${names.length === 1 ? names[0] : `${names.length} objects`}`, (d) => ({
      ...d,
      objects: d.objects.map((o) => (names.includes(o.name) ? { ...o, material } : o)),
    }));
  if (fault) toast.error(fault);
}

/** The material of chosen objects: one of the scene's, or a starter surface. */
export function ObjectMaterial({ document, names }: { document: SceneDocument; names: string[] }) {
  const materials = new Set(document.objects.filter((o) => names.includes(o.name)).map((o) => o.material));
  const one = materials.size === 1 ? [...materials][0] : null;
  return (
    <div className="flex items-center gap-2 border-b border-line py-1.5 pr-3 pl-4">
      <span className="flex-1">Material</span>
      <Choice
        label="material"
        value={one}
        placeholder="≠ differ"
        width="w-[136px]"
        options={[
          ...document.materials.map((m) => m.name),
          ...STARTER_SURFACES.filter((s) => !document.materials.some((m) => m.name === s.name)).map((s) => ({
            value: `starter:${s.name}`,
            label: `+ ${s.name}`,
          })),
        ]}
        onChange={(v) => {
          if (!v.startsWith('starter:')) return assign(names, v);
          const surface = STARTER_SURFACES.find((s) => s.name === v.slice(8))!;
          useScene.getState().edit(`${surface.name} to ${names.join(', ')}`, (d) => {
            const added = addSurface(d, surface);
            return {
              ...added.document,
              objects: added.document.objects.map((o) => (names.includes(o.name) ? { ...o, material: added.name } : o)),
            };
          });
        }}
      />
      {one && <Word onClick={() => useScene.getState().choose([{ kind: 'material', name: one }])}>Edit</Word>}
    </div>
  );
}

/** Preview, users and assignment of a material. */
export function MaterialHead({ document, name }: { document: SceneDocument; name: string }) {
  const material = document.materials.find((m) => m.name === name);
  const { choose } = useScene.getState();
  const users = document.objects.filter((o) => o.material === name).map((o) => o.name);
  if (!material) return null;
  return (
    <div className="flex gap-3 border-b border-line p-3">
      <Swatch material={material} />
      <div className="flex min-w-0 flex-1 flex-col gap-1.5">
        <span className="text-dim">
          {users.length === 0
            ? 'No object has it.'
            : `On ${users.length} ${users.length === 1 ? 'object' : 'objects'}.`}
        </span>
        {users.length > 0 && (
          <Plain onClick={() => choose(users.map((n) => ({ kind: 'object', name: n })))}>Choose them</Plain>
        )}
      </div>
    </div>
  );
}

const CHANNELS = ['r', 'g', 'b', 'a'] as const;
const isSingle = (input: TextureInput) => !/color|normal/.test(input);

/** Pictures that drive a material's inputs. */
export function TextureRows({ document, name }: { document: SceneDocument; name: string }) {
  const material = document.materials.find((m) => m.name === name)!;
  const pictures = [
    ...document.geometry.pictures.map((p) => p.name),
    ...document.contents.filter((c) => c.use === 'texture').map((c) => c.name),
  ];
  const set = (textures: Material['textures']) => {
    const fault = useScene.getState().setField([{ kind: 'material', name }], 'textures', textures);
    if (fault) toast.error(fault);
  };
  const free = TEXTURE_INPUTS.filter((i) => !material.textures.some((t) => t.input === i));
  const change = (k: number, part: object) => set(material.textures.map((t, i) => (i === k ? { ...t, ...part } : t)));
  return (
    <details open className="py-1">
      <summary className="cursor-pointer list-none px-3.5 py-1 font-semibold">Pictures</summary>
      {material.textures.map((t, k) => (
        <div key={t.input} className="px-4 py-1.5 hover:bg-raised">
          <div className="flex items-center gap-2">
            <span className="min-w-0 flex-1 truncate">{t.input.replaceAll('_', ' ')}</span>
            <Choice
              label={`${t.input} picture`}
              value={t.picture}
              options={pictures}
              onChange={(v) => change(k, { picture: v })}
            />
            <Word aria-label={`remove ${t.input}`} onClick={() => set(material.textures.filter((_, i) => i !== k))}>
              ×
            </Word>
          </div>
          <div className="mt-1 flex items-center gap-1 text-dim">
            {isSingle(t.input) && (
              <Choice
                label={`${t.input} channel`}
                value={t.channel}
                options={CHANNELS}
                onChange={(v) => change(k, { channel: v })}
              />
            )}
            <span>repeat</span>
            {[0, 1].map((a) => (
              <NumberField
                key={a}
                label={`${t.input} repeat ${a === 0 ? 'u' : 'v'}`}
                value={t.scale[a]}
                step={0.5}
                width="w-[62px]"
                onChange={(v) => {
                  if (v !== null) change(k, { scale: t.scale.map((s, i) => (i === a ? v : s)) });
                  return null;
                }}
              />
            ))}
            <span>strength</span>
            <NumberField
              label={`${t.input} strength`}
              value={t.strength}
              step={0.1}
              width="w-[62px]"
              onChange={(v) => {
                if (v !== null) change(k, { strength: v });
                return null;
              }}
            />
          </div>
        </div>
      ))}
      <div className="flex items-center gap-2 px-4 py-1.5">
        <Choice
          label="input for a picture"
          value={null}
          placeholder="add a picture to"
          width="w-[136px]"
          options={free.map((i) => ({ value: i, label: i.replaceAll('_', ' ') }))}
          onChange={async (input) => {
            const files = await chooseFiles('.png,.jpg,.jpeg,.exr,.hdr,.tif,.tiff');
            if (files.length === 0) return;
            try {
              const content = await importPicture(files[0], 'texture');
              useScene.getState().edit(`${content.name} on ${name}`, (d) => {
                const known = d.contents.find((c) => c.hash === content.hash && c.use === 'texture');
                const contents = known ? d.contents : [...d.contents, content];
                const picture = known?.name ?? content.name;
                return {
                  ...d,
                  contents,
                  materials: d.materials.map((m) =>
                    m.name === name
                      ? {
                          ...m,
                          textures: [
                            ...m.textures,
                            {
                              input: input as TextureInput,
                              picture,
                              channel: 'r' as const,
                              offset: [0, 0] as [number, number],
                              scale: [1, 1] as [number, number],
                              rotationDegrees: 0,
                              wrap: 'repeat' as const,
                              strength: 1,
                            },
                          ],
                        }
                      : m,
                  ),
                };
              });
            } catch (error) {
              toast.error((error as Error).message);
            }
          }}
        />
        <span className="text-dim">choose an input, then a picture file</span>
      </div>
    </details>
  );
}
