'use client';

import { useImport } from '../import/import-store';
import { Tip, Word } from '../parts/controls';
import { UndoButtons } from '../parts/undo-buttons';
import { type SetupPart, useDesk } from '../state/desk-store';
import { useSession } from '../state/session';
import { AddMenu } from './add-menu';
import { CameraPart } from './camera-part';
import { Contents } from './contents';
import { Inspector } from './inspector';
import { LightsPart } from './lights-part';
import { SceneMenu } from './scene-menu';
import { SkyPart } from './sky-part';
import { SurfacesPart } from './surfaces-part';
import { WhyPart } from './why-part';

const PARTS: { name: SetupPart; label: string; tip: string }[] = [
  { name: 'contents', label: 'Contents', tip: 'Everything in the scene by name, and what it is made of.' },
  { name: 'lights', label: 'Lights', tip: 'All sources of light by what they do for the picture.' },
  { name: 'sky', label: 'Sky', tip: 'Sun, sky, a picture all around, fog.' },
  { name: 'camera', label: 'Camera', tip: 'Exposure, focus, framing, lens and look.' },
  { name: 'surfaces', label: 'Surfaces', tip: 'Clay, and the materials on balls.' },
  { name: 'why', label: 'Why?', tip: 'Why the picture is dark, white or noisy, and what a pixel’s paths meet.' },
];

/** Set-up: what is in the shot, its light, its camera, and why it looks as it does. */
export function SetupPanel() {
  const { document } = useSession();
  const desk = useDesk();
  const { open } = useImport();
  return (
    <>
      <div className="flex h-9 shrink-0 items-center gap-0.5 border-b border-line pr-2 pl-2">
        <nav className="flex flex-1 gap-0.5" aria-label="parts of Set-up">
          {PARTS.map((p) => (
            <Tip key={p.name} text={p.tip} side="bottom">
              <Word on={desk.part === p.name} onClick={() => desk.set({ part: p.name })}>
                {p.label}
              </Word>
            </Tip>
          ))}
        </nav>
        <UndoButtons />
      </div>
      {desk.part === 'contents' && (
        <>
          <div className="flex items-center gap-2 border-b border-line px-3 py-1.5">
            <SceneMenu />
            <span className="flex-1" />
            <AddMenu onImport={() => void open()} />
          </div>
          <div className="flex min-h-[120px] flex-1 flex-col">
            <Contents document={document} />
          </div>
          <Inspector document={document} />
        </>
      )}
      {desk.part === 'lights' && <LightsPart />}
      {desk.part === 'sky' && <SkyPart />}
      {desk.part === 'camera' && <CameraPart />}
      {desk.part === 'surfaces' && <SurfacesPart />}
      {desk.part === 'why' && <WhyPart />}
    </>
  );
}
