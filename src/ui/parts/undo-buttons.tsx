'use client';

import { Redo2, Undo2 } from 'lucide-react';
import { useHistory } from '../state/history';
import { redo, undo } from '../state/undo';
import { Tip } from './controls';

/** Takes back and makes again the last change, of scene or recipe. */
export function UndoButtons() {
  const { past, future } = useHistory();
  const buttons = [
    { label: 'undo', tip: 'Undo (Ctrl Z)', steps: past, act: undo, Icon: Undo2 },
    { label: 'redo', tip: 'Redo (Ctrl Shift Z)', steps: future, act: redo, Icon: Redo2 },
  ];
  return (
    <>
      {buttons.map(({ label, tip, steps, act, Icon }) => (
        <Tip key={label} text={tip}>
          <button
            type="button"
            aria-label={label}
            disabled={steps.length === 0}
            className="p-1 text-soft hover:text-ink disabled:opacity-30"
            onClick={act}
          >
            <Icon size={13} />
          </button>
        </Tip>
      ))}
    </>
  );
}
