'use client';

import { ChevronDown } from 'lucide-react';
import { Fragment } from 'react';
import { isLossy } from '@/core/exr';
import { type Output, PACKINGS, TILES } from '@/core/outputs';
import { packingWords } from '@/core/words';
import { Menu, MenuHeading, MenuItem } from '../../parts/menu';

/** What each packing does, beside its name. */
const PACKING_LINES: Record<Output['compression'], string> = {
  none: 'as it is, quickest',
  rle: 'runs of equal bytes',
  zips: 'one line at once',
  zip: '16 lines at once',
  piz: '32 lines, grain in fewer bytes',
  pxr24: 'floats to 24 bits',
  b44: 'halves to about 7 bits, even size',
  b44a: 'the same, even areas smaller',
  dwaa: 'what the eye sees, 32 lines',
  dwab: 'what the eye sees, 256 lines',
};

const tileWords = (side: number | null) => (side === null ? 'lines' : `tiles ${side} px`);

const CHOICE = 'flex items-center gap-1 rounded-sm bg-fill px-1.5 py-0.5 text-pit';

/** How an output is packed, in lines or in tiles, and whether that loses. */
export function PackingMenu({
  output,
  edit,
}: {
  output: Output;
  edit: <K extends keyof Output>(key: K, value: Output[K]) => void;
}) {
  const { compression, tilePx } = output;
  const kinds = [PACKINGS.filter((p) => !isLossy(p)), PACKINGS.filter(isLossy)];
  return (
    <>
      <Menu
        trigger={
          <button type="button" className={CHOICE} aria-label={`packing: ${packingWords(compression)}`}>
            {packingWords(compression)} <ChevronDown size={11} />
          </button>
        }
      >
        {kinds.map((packings, k) => (
          <Fragment key={packings[0]}>
            <MenuHeading>{k === 0 ? 'gives back the same bits' : 'loses some of the light'}</MenuHeading>
            {packings.map((p) => (
              <MenuItem key={p} onSelect={() => edit('compression', p)}>
                <span>{packingWords(p)}</span>
                <span className="text-dim">{PACKING_LINES[p]}</span>
              </MenuItem>
            ))}
          </Fragment>
        ))}
      </Menu>
      <Menu
        trigger={
          <button type="button" className={CHOICE} aria-label={`pieces: ${tileWords(tilePx)}`}>
            {tileWords(tilePx)} <ChevronDown size={11} />
          </button>
        }
      >
        {[null, ...TILES].map((t) => (
          <MenuItem key={t ?? 0} onSelect={() => edit('tilePx', t)}>
            {tileWords(t)}
          </MenuItem>
        ))}
      </Menu>
      <span className="ml-1 text-dim">
        {isLossy(compression) ? 'loses some of the light' : 'the same bits come back'}
      </span>
    </>
  );
}
