'use client';

import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { cameraSchema, freeName, type SceneDocument } from '@/core/scene';
import type { SpaceGeometry } from '@/render/questions/geometry';
import { Tip, Word } from '../parts/controls';
import { useAsk } from '../state/ask';
import { useDesk } from '../state/desk-store';
import { onEscape } from '../state/escape';
import { settle, undo, useHistory } from '../state/history';
import { useRecipe } from '../state/recipe-store';
import { useCamera, useDocument, useFrame } from '../state/scene-now';
import { useScene } from '../state/scene-store';
import { useTrails } from '../state/trail-store';
import { Stage, type ViewSide } from './stage';
import type { Mode } from './transforms';

const DRAG = 'space drag';

/** Meshes of the scene, fetched again only when there are other ones. */
function useGeometry(document: SceneDocument): SpaceGeometry | null {
  const of = JSON.stringify([document.geometry.hash, document.forms]);
  const { answer, fault } = useAsk('geometry', { document }, { of, keep: true, byOf: true });
  useEffect(() => {
    if (fault) toast.error(fault);
  }, [fault]);
  return answer;
}

const MODES: { mode: Mode; label: string; tip: string }[] = [
  { mode: 'translate', label: 'Move', tip: 'Drag an arrow to move what is chosen. Esc leaves a drag.' },
  { mode: 'rotate', label: 'Turn', tip: 'Drag a ring to turn it.' },
  { mode: 'scale', label: 'Size', tip: 'Drag a cube to change its size.' },
];
const SIDES: ViewSide[] = ['free', 'top', 'front', 'side'];

/** The working view of the space under the picture: lights, camera and objects move here. */
export function Space() {
  const document = useDocument();
  const camera = useCamera();
  const frame = useFrame();
  const recipe = useRecipe((s) => s.recipe);
  const chosen = useScene((s) => s.chosen);
  const choose = useScene((s) => s.choose);
  const { trails, shown } = useTrails();
  const desk = useDesk();
  const holder = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const stage = useRef<Stage | null>(null);
  const [mode, setMode] = useState<Mode>('translate');
  const [side, setSide] = useState<ViewSide>('free');
  const geometry = useGeometry(document);
  const open = desk.space;

  useEffect(() => {
    if (!open || !canvas.current || !holder.current) return;
    let made: Stage;
    try {
      made = new Stage(canvas.current, {
        choose: (items, add) => {
          const now = useScene.getState().chosen;
          choose(add ? [...now, ...items] : items);
        },
        drag: (label, change) => {
          const fault = useScene.getState().edit(label, change, DRAG);
          if (fault) toast.error(fault, { id: DRAG });
        },
        end: () => settle(),
        cancel: () => {
          if (useHistory.getState().past.at(-1)?.dragKey === DRAG) undo();
        },
      });
    } catch {
      toast.error('This browser gives no 3D drawing; the space stays closed. Everything can be placed by numbers.');
      desk.set({ space: false });
      return;
    }
    stage.current = made;
    const observer = new ResizeObserver(([e]) => made.resize(e.contentRect.width, e.contentRect.height));
    observer.observe(holder.current);
    return () => {
      observer.disconnect();
      made.dispose();
      stage.current = null;
    };
  }, [open, choose, desk.set]);
  const aspect = (recipe?.size.width ?? 16) / (recipe?.size.height ?? 9);
  useEffect(() => {
    stage.current?.show({ document, geometry, chosen, camera, frame, aspect, trails, trail: shown });
  }, [document, geometry, chosen, camera, frame, aspect, trails, shown]);
  useEffect(() => onEscape(() => stage.current?.cancel() ?? false), []);
  const fromView = () => {
    const look = stage.current?.look();
    if (!look) return;
    const made = cameraSchema.parse({
      ...camera,
      name: freeName(document, 'camera', 'camera'),
      position: look.position,
      target: look.target,
      motion: undefined,
      focusMetres: undefined,
      clipNear: 0,
      clipFar: null,
    });
    const fault = useScene.getState().edit('camera from the view', (d) => ({ ...d, cameras: [...d.cameras, made] }));
    if (fault) toast.error(fault);
    else {
      desk.set({ camera: made.name });
      choose([{ kind: 'camera', name: made.name }]);
    }
  };
  return (
    <section
      aria-label="space"
      className={`relative flex flex-col border-t border-line ${open ? 'h-[230px] shrink-0' : 'h-7 shrink-0'}`}
    >
      <div className="z-10 flex h-7 shrink-0 items-center gap-1 bg-ground px-3">
        <Tip text="Opens or closes the working view of the space.">
          <Word on={open} onClick={() => desk.set({ space: !open })}>
            Space
          </Word>
        </Tip>
        {open && (
          <>
            <span className="mx-1.5 h-3 w-px bg-line" />
            {MODES.map((m) => (
              <Tip key={m.mode} text={m.tip}>
                <Word
                  on={mode === m.mode}
                  onClick={() => {
                    setMode(m.mode);
                    stage.current?.setMode(m.mode);
                  }}
                >
                  {m.label}
                </Word>
              </Tip>
            ))}
            <span className="mx-1.5 h-3 w-px bg-line" />
            {SIDES.map((s) => (
              <Word
                key={s}
                on={side === s}
                onClick={() => {
                  setSide(s);
                  stage.current?.setSide(s);
                }}
              >
                {s}
              </Word>
            ))}
            <span className="flex-1" />
            {geometry?.boxes && (
              <Tip text="The meshes together have more triangles than this view draws; the picture has them all.">
                <span className="text-dim">boxes for meshes</span>
              </Tip>
            )}
            <Tip text="Brings what is chosen, or everything, into view.">
              <Word onClick={() => stage.current?.frame(chosen)}>Frame</Word>
            </Tip>
            <Tip text="Adds a camera that sees what this view sees, and looks through it. The shot’s own camera stays.">
              <Word onClick={fromView}>Camera from here</Word>
            </Tip>
          </>
        )}
      </div>
      {open && (
        <div ref={holder} className="min-h-0 flex-1 overflow-hidden">
          <canvas ref={canvas} data-testid="space" className="block h-full w-full touch-none" />
        </div>
      )}
    </section>
  );
}
