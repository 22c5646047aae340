'use client';

import { ChevronDown, Redo2, Undo2 } from 'lucide-react';
import { redo, undo, useHistory } from '../state/history';
import { Tip } from './controls';
import { Menu, MenuHeading, MenuItem, MenuLine } from './menu';

/** Steps that the menu lists each way. */
const MOST_LISTED = 10;
const BUTTON = 'p-1 text-soft hover:text-ink disabled:opacity-30';

/** Takes back and makes again what was changed last, of recipe, scene and all else; the menu lists it in words. */
export function UndoButtons() {
  const past = useHistory((s) => s.past);
  const future = useHistory((s) => s.future);
  const [last, next] = [past.at(-1), future[0]];
  return (
    <>
      <Tip text={last ? `Undo: ${last.words} (Ctrl Z)` : 'Nothing to undo'}>
        <button type="button" aria-label="undo" disabled={!last} className={BUTTON} onClick={() => undo()}>
          <Undo2 size={13} />
        </button>
      </Tip>
      <Tip text={next ? `Redo: ${next.words} (Ctrl Shift Z)` : 'Nothing to redo'}>
        <button type="button" aria-label="redo" disabled={!next} className={BUTTON} onClick={() => redo()}>
          <Redo2 size={13} />
        </button>
      </Tip>
      <Menu
        align="end"
        width="max-w-72"
        trigger={
          <button type="button" aria-label="what was changed" disabled={!last && !next} className={`${BUTTON} !px-0`}>
            <ChevronDown size={11} />
          </button>
        }
      >
        {past.length > 0 && <MenuHeading>Undo back to before</MenuHeading>}
        {past
          .slice(-MOST_LISTED)
          .reverse()
          .map((step, i) => (
            <MenuItem key={past.length - i} onSelect={() => undo(i + 1)}>
              {step.words}
            </MenuItem>
          ))}
        {past.length > 0 && future.length > 0 && <MenuLine />}
        {future.length > 0 && <MenuHeading>Redo up to</MenuHeading>}
        {future.slice(0, MOST_LISTED).map((step, i) => (
          <MenuItem key={`${step.words}${future.length - i}`} onSelect={() => redo(i + 1)}>
            {step.words}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
