'use client';

import { Plus } from 'lucide-react';
import type { ReactNode } from 'react';
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
import { Menu, MenuHeading, MenuItem } from '../../parts/menu';
import { useCamera } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';

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

function Column({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="min-w-28">
      <MenuHeading>{title}</MenuHeading>
      {children}
    </div>
  );
}

/** Everything that can be put into a shot. */
export function AddMenu({ onImport }: { onImport: () => void }) {
  const camera = useCamera();
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
    <Menu
      align="end"
      width="flex"
      trigger={
        <button
          type="button"
          className="flex items-center gap-1 rounded-sm border border-line px-2 py-1 hover:border-soft"
        >
          <Plus size={12} aria-hidden="true" /> Add
        </button>
      }
    >
      <Column title="Light">
        {LIGHT_KINDS.map((kind) => (
          <MenuItem key={kind} onSelect={() => light(kind)}>
            {kind}
          </MenuItem>
        ))}
      </Column>
      <Column title="Solid">
        {SOLID_KINDS.map((kind) => (
          <MenuItem key={kind} onSelect={() => create(`add ${kind}`, (d) => makeSolid(d, camera, kind))}>
            {kind}
          </MenuItem>
        ))}
      </Column>
      <Column title="Surface">
        {STARTER_SURFACES.map((m) => (
          <MenuItem
            key={m.name}
            onSelect={() =>
              create(`add ${m.name}`, (d) => {
                const added = addSurface(d, m);
                return { document: added.document, made: { kind: 'material', name: added.name } };
              })
            }
          >
            {m.name}
          </MenuItem>
        ))}
      </Column>
      <Column title="Surroundings">
        <MenuItem onSelect={() => environment('sky')}>sun and sky</MenuItem>
        <MenuItem onSelect={() => environment('gradient')}>gradient</MenuItem>
        <MenuItem onSelect={() => useScene.getState().edit('no surroundings', (d) => ({ ...d, environment: null }))}>
          none
        </MenuItem>
        <MenuHeading>Other</MenuHeading>
        <MenuItem
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
        </MenuItem>
        <MenuItem
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
        </MenuItem>

        <MenuItem onSelect={onImport}>From a file</MenuItem>
      </Column>
    </Menu>
  );
}
