'use client';

import { Plus } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { toast } from 'sonner';
import {
  addSurface,
  environmentSchema,
  freeName,
  type ItemRef,
  LIGHT_KINDS,
  makeLight,
  makeSolid,
  type SceneDocument,
  SOLID_KINDS,
  STARTER_SURFACES,
} from '@/core/scene';
import { useScene } from '../state/scene-store';
import { useSession } from '../state/session';

const ITEM = 'cursor-pointer rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit';
const BOX = 'z-40 min-w-40 rounded-sm border border-line bg-panel p-1 shadow-xl';

/** Makes something and chooses it. */
export function create(label: string, make: (d: SceneDocument) => { document: SceneDocument; made: ItemRef }): void {
  let made: ItemRef | null = null;
  const fault = useScene.getState().edit(label, (d) => {
    const result = make(d);
    made = result.made;
    return result.document;
  });
  if (fault) toast.error(fault);
  else if (made) useScene.getState().choose([made]);
}

function Sub({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <DropdownMenu.Sub>
      <DropdownMenu.SubTrigger className={`${ITEM} flex justify-between gap-6`}>
        {title} <span aria-hidden="true">›</span>
      </DropdownMenu.SubTrigger>
      <DropdownMenu.Portal>
        <DropdownMenu.SubContent className={BOX}>{children}</DropdownMenu.SubContent>
      </DropdownMenu.Portal>
    </DropdownMenu.Sub>
  );
}

/** Everything that can be put into a shot. */
export function AddMenu({ onImport }: { onImport: () => void }) {
  const { camera } = useSession();
  const light = (kind: (typeof LIGHT_KINDS)[number]) =>
    create(`add ${kind} light`, (d) => {
      const document = makeLight(d, camera, kind);
      return { document, made: { kind: 'light', name: document.lights.at(-1)!.name } };
    });
  const environment = (kind: 'sky' | 'gradient') =>
    useScene.getState().edit(`add ${kind}`, (d) => ({
      ...d,
      environment: environmentSchema.parse(
        kind === 'sky'
          ? { kind, group: 'sky', stops: Math.round((camera.exposure.ev100 ?? 0) - 13 - camera.exposure.stops) }
          : { kind, group: 'sky', zenith: [0.3, 0.35, 0.45], horizon: [0.5, 0.5, 0.5], ground: [0.1, 0.1, 0.1] },
      ),
    }));
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="flex items-center gap-1 rounded-sm border border-line px-2 py-1 hover:border-soft">
        <Plus size={12} aria-hidden="true" /> Add
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className={BOX}>
          <Sub title="Light">
            {LIGHT_KINDS.map((kind) => (
              <DropdownMenu.Item key={kind} className={ITEM} onSelect={() => light(kind)}>
                {kind}
              </DropdownMenu.Item>
            ))}
          </Sub>
          <Sub title="Surroundings">
            <DropdownMenu.Item className={ITEM} onSelect={() => environment('sky')}>
              sun and sky
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => environment('gradient')}>
              gradient
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={ITEM}
              onSelect={() => useScene.getState().edit('no surroundings', (d) => ({ ...d, environment: null }))}
            >
              none
            </DropdownMenu.Item>
          </Sub>
          <Sub title="Solid">
            {SOLID_KINDS.map((kind) => (
              <DropdownMenu.Item
                key={kind}
                className={ITEM}
                onSelect={() => create(`add ${kind}`, (d) => makeSolid(d, camera, kind))}
              >
                {kind}
              </DropdownMenu.Item>
            ))}
          </Sub>
          <Sub title="Surface">
            {STARTER_SURFACES.map((m) => (
              <DropdownMenu.Item
                key={m.name}
                className={ITEM}
                onSelect={() =>
                  create(`add ${m.name}`, (d) => {
                    const added = addSurface(d, m);
                    return { document: added.document, made: { kind: 'material', name: added.name } };
                  })
                }
              >
                {m.name}
              </DropdownMenu.Item>
            ))}
          </Sub>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() =>
              create('add camera', (d) => {
                const name = freeName(d, 'camera', 'camera');
                return {
                  document: { ...d, cameras: [...d.cameras, { ...camera, name }] },
                  made: { kind: 'camera', name },
                };
              })
            }
          >
            Camera as this one
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() =>
              create('add set', (d) => {
                const name = freeName(d, 'set', 'set');
                const members = useScene
                  .getState()
                  .chosen.filter((c) => c.kind === 'object')
                  .map((c) => c.name);
                return { document: { ...d, sets: { ...d.sets, [name]: members } }, made: { kind: 'set', name } };
              })
            }
          >
            Set of what is chosen
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          <DropdownMenu.Item className={ITEM} onSelect={onImport}>
            From a file…
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
