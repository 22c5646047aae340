'use client';

import { useImport } from '../../import/import-store';
import { Tabs } from '../../parts/tabs';
import { UndoButtons } from '../../parts/undo-buttons';
import { type SetupPart, useDesk } from '../../state/desk-store';
import { useDocument } from '../../state/scene-now';
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
  const part = useDesk((s) => s.part);
  return (
    <Tabs
      label="parts of Set-up"
      tabs={PARTS}
      value={part}
      onChange={(name) => useDesk.getState().set({ part: name as SetupPart })}
      listClass="h-9 border-b border-line px-2"
      beside={
        <span className="flex flex-1 justify-end">
          <UndoButtons />
        </span>
      }
    >
      {part === 'contents' && <ContentsPart />}
      {part === 'lights' && <LightsPart />}
      {part === 'sky' && <SkyPart />}
      {part === 'camera' && <CameraPart />}
      {part === 'surfaces' && <SurfacesPart />}
      {part === 'why' && <WhyPart />}
    </Tabs>
  );
}

function ContentsPart() {
  const document = useDocument();
  return (
    <>
      <div className="flex items-center gap-2 border-b border-line px-3 py-1.5">
        <SceneMenu />
        <span className="flex-1" />
        <AddMenu onImport={() => void useImport.getState().open()} />
      </div>
      <div className="flex min-h-[120px] flex-1 flex-col">
        <Contents document={document} />
      </div>
      <Inspector document={document} />
    </>
  );
}
