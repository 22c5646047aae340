'use client';

import type { ReactNode } from 'react';
import { SCREENS, type StackDisplay, TABLE_ENCODINGS, type TableEncoding, withAt } from '@/core/comp';
import { WORKING_SPACES, type WorkingSpace } from '@/core/image';
import { Choice } from '../../fields/choice';
import { Popover } from '../../parts/popover';
import { together } from '../../state/history';
import type { Stacked } from '../../state/stacking';
import { tell } from '../../state/tell';
import { useIsWide } from '../../state/wide';
import { change } from './actions';
import { bringTable } from './add-menu';
import { LabelRow } from './label-row';
import { ENCODING_WORDS } from './operation-fields';

const show = (display: StackDisplay, words: string) => change(`shown ${words}`, (s) => withAt(s, ['display'], display));

const BY_TABLE = 'table ';
const FROM_FILE = 'from a file';

/** Takes a .cube file as the display. */
async function showByFile(): Promise<void> {
  const brought = await bringTable();
  if (!brought) return;
  together(`shown by ${brought.name}`, () => {
    change(`table ${brought.name}`, (s) => withAt(s, ['tables', brought.name], brought.hash));
    show({ to: 'table', table: brought.name, encoding: 'srgb' }, `by ${brought.name}`);
  });
}

/** What the stack works in, and which screen its picture is for. */
export function ColourMenu({ stacked: { stack }, trigger }: { stacked: Stacked; trigger: ReactNode }) {
  const { space, display, tables } = stack;
  const wide = useIsWide();
  const shown = display.to === 'table' ? BY_TABLE + display.table : display.to;
  const choose = (value: string) => {
    if (value === FROM_FILE) void showByFile().catch(tell);
    else if (value.startsWith(BY_TABLE)) {
      const table = value.slice(BY_TABLE.length);
      show({ to: 'table', table, encoding: 'srgb' }, `by ${table}`);
    } else show({ to: value as (typeof SCREENS)[number] }, `on ${value}`);
  };
  return (
    <Popover trigger={trigger} width="w-80" side="bottom" align="start" testId="colour">
      <LabelRow label="works in">
        <Choice
          label="working space"
          value={space}
          options={WORKING_SPACES.map((s) => ({ value: s, label: SPACE_WORDS[s] }))}
          onChange={(v) => change(`works in ${v}`, (s) => withAt(s, ['space'], v))}
        />
      </LabelRow>
      <p className="pb-2 text-[11.5px] text-dim">
        Films and pictures are led there once, by what they say of their primaries. Colours you set stay as you see
        them.
      </p>
      <LabelRow label="is shown on">
        <Choice
          label="screen"
          value={shown}
          options={[
            ...SCREENS.map((s) => ({ value: s, label: SCREEN_WORDS[s] })),
            ...Object.keys(tables).map((t) => ({ value: BY_TABLE + t, label: t, under: 'by a table' })),
            { value: FROM_FILE, label: 'a .cube file', under: 'by a table' },
          ]}
          onChange={choose}
        />
      </LabelRow>
      {display.to === 'table' ? (
        <>
          <LabelRow label="which is given light">
            <Choice
              label="light into the table"
              value={display.encoding}
              options={TABLE_ENCODINGS.map((e) => ({ value: e, label: ENCODING_WORDS[e] }))}
              onChange={(v) => show({ ...display, encoding: v as TableEncoding }, `by ${display.table}`)}
            />
          </LabelRow>
          <p className="text-[11.5px] text-dim">It takes the place of the scene’s look.</p>
        </>
      ) : (
        <p className="text-[11.5px] text-dim">{wide ? WIDE_TIPS[display.to] : SCREEN_TIPS[display.to]}</p>
      )}
    </Popover>
  );
}

const SPACE_WORDS: Record<WorkingSpace, string> = { 'Rec.709': 'linear Rec.709', ACEScg: 'ACEScg' };
const SCREEN_WORDS: Record<(typeof SCREENS)[number], string> = {
  sRGB: 'sRGB',
  'Rec.709': 'Rec.709, BT.1886',
  'Display P3': 'Display P3',
};
const SCREEN_TIPS: Record<(typeof SCREENS)[number], string> = {
  sRGB: 'PNG and TIFF are for sRGB. W shows what it cuts.',
  'Rec.709': 'PNG and TIFF are for a screen with a gamma of 2.4, and say so; so is this picture.',
  'Display P3':
    'PNG and TIFF are for P3, and say so. This screen has less: the page shows what sRGB has of it; W shows what P3 cuts.',
};
const WIDE_TIPS = {
  ...SCREEN_TIPS,
  'Display P3': 'PNG and TIFF are for P3, and say so; this screen shows them. W shows what P3 cuts.',
};
