'use client';

import { Choice } from '../../fields/choice';
import { NumberField } from '../../fields/number-field';
import { chooseFiles } from '../../import/choose';
import { useImport } from '../../import/import-store';
import { Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { useDocument } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';

/** Pictures and plates to hold the render against: in B, under the wipe. */
export function ReferenceRows() {
  const document = useDocument();
  const desk = useDesk();
  const { edit } = useScene.getState();
  const inPlates = new Set(document.plates.flatMap((p) => p.stills.map((s) => s.picture)));
  const names = [
    ...document.plates.map((p) => p.name),
    ...document.contents.filter((c) => c.use === 'reference' && !inPlates.has(c.name)).map((c) => c.name),
  ];
  const shown = desk.b?.kind === 'reference' ? desk.b.name : '';
  const plate = document.plates.find((p) => p.name === shown);
  const add = async () => {
    const files = await chooseFiles('.png,.jpg,.jpeg,.tif,.tiff,.exr,.hdr', true);
    useImport.getState().take(files.map((file) => ({ path: file.name, file })));
  };
  const change = (part: object) =>
    edit(`plate ${shown}`, (d) => ({ ...d, plates: d.plates.map((p) => (p.name === shown ? { ...p, ...part } : p)) }));
  return (
    <details open className="border-b border-line py-1">
      <summary className="cursor-pointer list-none px-3.5 py-1 font-semibold">Hold against</summary>
      <div className="flex items-center gap-2 px-4 py-0.5">
        <Choice
          label="reference"
          value={shown}
          options={[{ value: '', label: names.length > 0 ? 'nothing' : 'none brought in' }, ...names]}
          onChange={(v) => desk.set({ b: { kind: 'reference', name: v }, compare: 'wipe' })}
        />
        <span className="flex-1" />
        {shown && <Word onClick={() => desk.set({ b: null })}>Take away</Word>}
        <Word onClick={() => void add()}>From files</Word>
      </div>
      {plate && (
        <div className="flex items-center gap-2 px-4 py-0.5">
          <span className="flex-1">
            {plate.stills.length} {plate.stills.length === 1 ? 'still' : 'stills'}, number 0 at frame
          </span>
          <NumberField
            label="plate offset"
            value={plate.offset}
            width="w-[70px]"
            onChange={(v) => (v === null || !Number.isInteger(v) ? 'a whole number of frames' : change({ offset: v }))}
          />
          <Choice
            label="gaps"
            value={plate.gaps}
            options={[
              { value: 'hold', label: 'gaps hold' },
              { value: 'empty', label: 'gaps empty' },
            ]}
            onChange={(v) => change({ gaps: v })}
          />
        </div>
      )}
    </details>
  );
}
