'use client';

import { Plus } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { toast } from 'sonner';
import {
  addSurface,
  freeName,
  type ItemRef,
  LIGHT_KINDS,
  makeGradient,
  makeLight,
  makeSky,
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

function Column({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <DropdownMenu.Group className="min-w-28">
      <DropdownMenu.Label className="px-2 py-1 text-[11px] text-dim">{title}</DropdownMenu.Label>
      {children}
    </DropdownMenu.Group>
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
      environment: kind === 'sky' ? makeSky(camera.exposure) : makeGradient(),
    }));
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="flex items-center gap-1 rounded-sm border border-line px-2 py-1 hover:border-soft">
        <Plus size={12} aria-hidden="true" /> Add
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className={`${BOX} flex`}>
          <Column title="Light">
            {LIGHT_KINDS.map((kind) => (
              <DropdownMenu.Item key={kind} className={ITEM} onSelect={() => light(kind)}>
                {kind}
              </DropdownMenu.Item>
            ))}
          </Column>
          <Column title="Solid">
            {SOLID_KINDS.map((kind) => (
              <DropdownMenu.Item
                key={kind}
                className={ITEM}
                onSelect={() => create(`add ${kind}`, (d) => makeSolid(d, camera, kind))}
              >
                {kind}
              </DropdownMenu.Item>
            ))}
          </Column>
          <Column title="Surface">
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
          </Column>
          <Column title="Surroundings">
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
            <DropdownMenu.Label className="px-2 pt-2 pb-1 text-[11px] text-dim">Other</DropdownMenu.Label>
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

            <DropdownMenu.Item className={ITEM} onSelect={onImport}>
              From a file…
            </DropdownMenu.Item>
          </Column>{' '}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
