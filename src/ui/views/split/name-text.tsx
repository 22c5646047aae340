'use client';

import { useEffect, useState } from 'react';

/** Text of a name, typed in place, of letters that names can have; kept when it is left. */
export function NameText({
  label,
  text,
  onChange,
  dots = true,
  most = 40,
  mayBeEmpty = false,
  leastCh = 1,
}: {
  label: string;
  text: string;
  onChange: (text: string) => void;
  dots?: boolean;
  most?: number;
  mayBeEmpty?: boolean;
  /** Letters that there is room for at least. */
  leastCh?: number;
}) {
  const [typed, setTyped] = useState(text);
  useEffect(() => setTyped(text), [text]);
  const foreign = dots ? /[^A-Za-z0-9._-]/g : /[^A-Za-z0-9_-]/g;
  return (
    <input
      aria-label={label}
      value={typed}
      style={{ width: `${Math.max(leastCh, typed.length) + 1}ch` }}
      className="num rounded-sm border border-line bg-pit text-center leading-[18px] outline-none focus:border-soft"
      onChange={(e) => setTyped(e.target.value.replace(foreign, '').slice(0, most))}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      onBlur={() => (typed === '' && !mayBeEmpty ? setTyped(text) : typed !== text && onChange(typed))}
    />
  );
}
