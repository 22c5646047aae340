'use client';

import { Plus } from 'lucide-react';
import type { Chip } from '@/core/outputs';
import { FILLED } from '@/core/outputs';
import { Menu, MenuItem, MenuLine } from '../../parts/menu';
import { NameText } from './name-text';

const CHIP = 'rounded-sm border border-line px-1.5 leading-[18px] hover:border-soft';
const DIGITS = [3, 4, 5, 6];

/** The parts of a name in a row: each can be moved, changed and taken out, and others added. */
export function NameChips({ names, onChange }: { names: readonly Chip[]; onChange: (names: Chip[]) => void }) {
  const put = (at: number, chip: Chip) => onChange(names.map((c, i) => (i === at ? chip : c)));
  const move = (at: number, by: number) => {
    const next = [...names];
    const [chip] = next.splice(at, 1);
    next.splice(at + by, 0, chip);
    onChange(next);
  };
  return (
    <>
      {names.map((chip, i) => (
        <span key={i} className="flex items-center">
          {chip.kind === 'text' && (
            <NameText label="text of the name" text={chip.text} onChange={(text) => put(i, { kind: 'text', text })} />
          )}
          <Menu
            trigger={
              chip.kind === 'text' ? (
                <button type="button" aria-label={`part ${chip.text}`} className="px-0.5 text-dim hover:text-ink">
                  ⋮
                </button>
              ) : (
                <button type="button" className={CHIP}>
                  {chip.kind === 'frame' ? `frame ${'0'.repeat(chip.digits)}` : chip.kind}
                </button>
              )
            }
          >
            {chip.kind === 'frame' &&
              DIGITS.map((digits) => (
                <MenuItem
                  key={digits}
                  disabled={chip.digits === digits}
                  onSelect={() => put(i, { kind: 'frame', digits })}
                >
                  {digits} digits
                </MenuItem>
              ))}
            {chip.kind === 'frame' && <MenuLine />}
            <MenuItem disabled={i === 0} onSelect={() => move(i, -1)}>
              Earlier
            </MenuItem>
            <MenuItem disabled={i === names.length - 1} onSelect={() => move(i, 1)}>
              Later
            </MenuItem>
            <MenuItem disabled={names.length === 1} onSelect={() => onChange(names.filter((_, j) => j !== i))}>
              Take out
            </MenuItem>
          </Menu>
        </span>
      ))}
      <Menu
        align="end"
        trigger={
          <button type="button" aria-label="add a part to the name" className="p-1 text-soft hover:text-ink">
            <Plus size={12} />
          </button>
        }
      >
        <MenuItem onSelect={() => onChange([...names, { kind: 'text', text: '_' }])}>text</MenuItem>
        <MenuItem onSelect={() => onChange([...names, { kind: 'frame', digits: 4 }])}>frame</MenuItem>
        {FILLED.map((kind) => (
          <MenuItem key={kind} onSelect={() => onChange([...names, { kind }])}>
            {kind}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
