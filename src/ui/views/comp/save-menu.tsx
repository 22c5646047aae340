'use client';

import { type ReactNode, useState } from 'react';
import { toast } from 'sonner';
import { parseStack, SHOWN, StackError } from '@/core/comp';
import { bytes, two } from '@/core/words';
import { chooseFiles } from '../../import/choose';
import { Menu, MenuHeading, MenuItem, MenuLine } from '../../parts/menu';
import { saveFile } from '../../parts/save-file';
import { useClient } from '../../state/client';
import { useShot } from '../../state/shot-store';
import { useSlotTrial } from '../../state/slots';
import type { Stacked } from '../../state/stacking';
import { tell } from '../../state/tell';
import { change } from './actions';

const MIME = { exr: 'image/x-exr', png: 'image/png', tiff: 'image/tiff' } as const;

/** Takes a stack of a file in the place of the shot's. */
async function bringIn(): Promise<void> {
  const [file] = await chooseFiles('.json', false);
  if (!file) return;
  let value: unknown;
  try {
    value = JSON.parse(await file.text());
    const stack = parseStack(value);
    // Films of files are what A shows here: the shot has no other.
    const films = Object.fromEntries(Object.keys((stack.films ?? {}) as object).map((name) => [name, 'A']));
    change(`stack of ${file.name}`, () => ({
      ...stack,
      films: Object.keys(films).length > 0 ? films : { [SHOWN]: 'A' },
    }));
  } catch (error) {
    if (error instanceof SyntaxError) throw new Error(`${file.name}: it is no JSON`);
    throw error instanceof StackError ? new Error(`${file.name}: ${error.message}`) : error;
  }
}

/** The picture that the stack makes as a file, and the stack itself. */
export function SaveMenu({ stacked, trigger }: { stacked: Stacked; trigger: ReactNode }) {
  const client = useClient();
  const trial = useSlotTrial('A');
  const shot = useShot((s) => s.name);
  const [busy, setBusy] = useState(false);
  const stem = `${shot.replaceAll(/\W+/g, '-')}${trial ? `_t${two(trial.number)}` : '_live'}_comp`;
  const save = (as: keyof typeof MIME) => {
    setBusy(true);
    client
      .ask('stackFile', { over: stacked.over, as })
      .then((file) => {
        const name = `${stem}.${String(stacked.frame).padStart(4, '0')}.${as === 'tiff' ? 'tif' : as}`;
        saveFile(new Blob([file as Uint8Array<ArrayBuffer>], { type: MIME[as] }), name);
        toast.success(`${name}: ${bytes(file.byteLength)}`);
      })
      .catch(tell)
      .finally(() => setBusy(false));
  };
  const saveGrade = (most: number) => {
    setBusy(true);
    client
      .ask('gradeTable', { over: stacked.over, most })
      .then((made) => {
        if (!made) throw new Error('nothing grades the picture: a grade stands above the last layer, without a mask');
        saveFile(new Blob([made.text], { type: 'text/plain' }), `${stem}.cube`);
        const left = made.left.length > 0 ? `; not in it: ${made.left.join(', ')}` : '';
        toast.success(`${stem}.cube: 33×33×33, up to ${most} × white${left}`);
      })
      .catch(tell)
      .finally(() => setBusy(false));
  };
  return (
    <Menu align="end" trigger={trigger}>
      <MenuHeading>The picture, frame {stacked.frame}</MenuHeading>
      <MenuItem disabled={busy} onSelect={() => save('exr')}>
        OpenEXR <span className="text-dim">linear, float</span>
      </MenuItem>
      <MenuItem disabled={busy} onSelect={() => save('png')}>
        PNG <span className="text-dim">16 bits, as shown</span>
      </MenuItem>
      <MenuItem disabled={busy} onSelect={() => save('tiff')}>
        TIFF <span className="text-dim">16 bits, as shown</span>
      </MenuItem>
      <MenuLine />
      <MenuHeading>The grade above the last layer</MenuHeading>
      <MenuItem disabled={busy} onSelect={() => saveGrade(1)}>
        .cube <span className="text-dim">up to white</span>
      </MenuItem>
      <MenuItem disabled={busy} onSelect={() => saveGrade(16)}>
        .cube <span className="text-dim">up to 16 × white</span>
      </MenuItem>
      <MenuLine />
      <MenuHeading>The stack</MenuHeading>
      <MenuItem
        onSelect={() =>
          saveFile(new Blob([JSON.stringify(stacked.document, null, 1)], { type: 'application/json' }), `${stem}.json`)
        }
      >
        Save as JSON
      </MenuItem>
      <MenuItem onSelect={() => void bringIn().catch(tell)}>Bring in JSON</MenuItem>
      <MenuItem onSelect={() => change('no stack', (s) => ({ ...s, entries: [], masks: {} }))}>Begin anew</MenuItem>
    </Menu>
  );
}
