'use client';

import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { MOST_STOPS, parseGain, stopsText } from '@/core/moods';

const STEP = 0.1;

/** A gain that is typed as stops, a factor or percent, or stepped by arrow keys (Shift: whole stops). */
export function GainField({
  label,
  stops,
  onChange,
}: {
  label: string;
  stops: number;
  onChange: (stops: number) => void;
}) {
  const shown = stopsText(stops);
  const [text, setText] = useState(shown);
  const typing = useRef(false);
  useEffect(() => {
    if (!typing.current) setText(shown);
  }, [shown]);
  const commit = () => {
    typing.current = false;
    if (text === shown) return;
    const gain = parseGain(text);
    if ('fault' in gain) {
      toast.error(`${label}: “${text}”: ${gain.fault}`, { id: label });
      setText(shown);
      return;
    }
    onChange(gain.stops);
    setText(stopsText(gain.stops));
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') commit();
    else if (event.key === 'Escape') {
      event.stopPropagation();
      typing.current = false;
      setText(shown);
      event.currentTarget.blur();
    } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      event.preventDefault();
      typing.current = false;
      const by = (event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 1 : STEP);
      onChange(Math.max(-MOST_STOPS, Math.min(MOST_STOPS, Math.round((stops + by) * 100) / 100)));
    }
  };
  return (
    <input
      aria-label={label}
      className="num w-[54px] rounded-sm border border-line bg-pit px-1.5 py-[2px] text-right text-ink outline-none focus:border-soft"
      value={text}
      onChange={(e) => {
        typing.current = true;
        setText(e.target.value);
      }}
      onFocus={(e) => e.target.select()}
      onBlur={commit}
      onKeyDown={onKeyDown}
    />
  );
}
