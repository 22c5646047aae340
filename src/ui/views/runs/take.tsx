'use client';

import { ChevronDown, Download } from 'lucide-react';
import { useState } from 'react';
import type { Run, RunLine } from '@/contract/run';
import { evenly } from '@/core/runs';
import { clock, counted, percent, two } from '@/core/words';
import { Plain } from '../../parts/controls';
import { Menu, MenuItem } from '../../parts/menu';
import { saveFile, takeFile } from '../../parts/save-file';
import { sheetPng, type Tile } from '../../parts/sheet-png';
import { usePlaying } from '../../state/player-store';
import { useRun } from '../../state/runs';
import { useShot } from '../../state/shot-store';
import { tell } from '../../state/tell';
import { MovieDialog } from './movies';

/** More small pictures than this are not looked through on one sheet. */
const MOST_TILES = 240;

/** Frames that are done in one of a run's pictures, on a sheet with noise and time under each. */
async function saveSheet(shot: string, run: Run, picture: number): Promise<void> {
  const done = run.rows.filter((r) => r.picture === picture && r.state === 'done');
  const tiles = await Promise.all(
    evenly(done, MOST_TILES).map(async (r): Promise<Tile> => {
      const sent = await fetch(`/api/trials/${r.id}/thumbnail`);
      const own = sent.ok ? await createImageBitmap(await sent.blob()) : null;
      return { picture: own, title: String(r.frame), figures: `${percent(r.noise)} · ${clock(r.seconds)}` };
    }),
  );
  const heading = `${shot} · run ${two(run.number)} ${run.title} · ${counted(done.length, 'frame')}${tiles.length < done.length ? `, ${tiles.length} of them shown` : ''}`;
  const columns = Math.ceil(Math.sqrt(tiles.length * 0.9));
  saveFile(await sheetPng(heading, tiles, columns), `${shot}-run${two(run.number)}-sheet.png`);
}

/** What of a run can be taken along: its files, a movie, a sheet of its frames. */
export function Take({ run }: { run: RunLine }) {
  const shot = useShot((s) => s.name);
  const whole = useRun(run.id);
  const [isAsking, ask] = useState(false);
  const wanted = usePlaying((s) => s.picture);
  const none = run.counts.done === 0;
  return (
    <>
      <Menu
        trigger={
          <Plain className="!px-2 !py-1">
            <Download size={13} aria-hidden="true" /> Take <ChevronDown size={12} aria-hidden="true" />
          </Plain>
        }
        width="min-w-64"
      >
        <MenuItem disabled={run.files.packed === 0} onSelect={() => takeFile(`/api/runs/${run.id}/files.zip`)}>
          all files and the manifest, as .zip
        </MenuItem>
        <MenuItem disabled={none} onSelect={() => ask(true)}>
          a movie of the frames…
        </MenuItem>
        <MenuItem onSelect={() => takeFile(`/api/runs/${run.id}/report.html`)}>a report of it, as HTML</MenuItem>
        <MenuItem
          disabled={none || !whole}
          onSelect={() => void saveSheet(shot, whole!, wanted < run.pictures ? wanted : 0).catch(tell)}
        >
          a sheet of the frames, as PNG
        </MenuItem>
      </Menu>
      {isAsking && whole && <MovieDialog run={whole} onClose={() => ask(false)} />}
    </>
  );
}
