'use client';

import { Tooltip } from 'radix-ui';
import type { ButtonHTMLAttributes, ReactNode } from 'react';

/** A tip that teaches, on hover and on focus. */
export function Tip({
  text,
  children,
  side = 'top',
}: {
  text: ReactNode;
  children: ReactNode;
  side?: 'top' | 'bottom' | 'left' | 'right';
}) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          side={side}
          sideOffset={6}
          className="z-50 max-w-72 rounded-sm bg-fill px-2.5 py-1.5 text-[12px] text-pit shadow-lg"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

/** A key as the interface writes it. */
export function Key({ children }: { children: ReactNode }) {
  return <kbd className="num rounded-sm border border-current/40 px-1 text-[11px] leading-4">{children}</kbd>;
}

export function Primary(props: ButtonHTMLAttributes<HTMLButtonElement>) {
  return (
    <button
      type="button"
      {...props}
      className="flex items-center gap-2 rounded-sm bg-fill px-3 py-1.5 font-semibold text-pit hover:bg-white disabled:opacity-45"
    />
  );
}

export function Plain(props: ButtonHTMLAttributes<HTMLButtonElement>) {
  return (
    <button
      type="button"
      {...props}
      className={`flex items-center gap-2 rounded-sm border border-line px-3 py-1.5 hover:border-soft disabled:opacity-45 ${props.className ?? ''}`}
    />
  );
}

/** Words that act: a small button without a box. `on` fills it. */
export function Word({ on, className, ...props }: ButtonHTMLAttributes<HTMLButtonElement> & { on?: boolean }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      {...props}
      className={`rounded-sm px-1.5 py-0.5 ${on ? 'bg-fill text-pit' : 'text-soft hover:text-ink'} disabled:opacity-45 ${className ?? ''}`}
    />
  );
}

/** A share of the time, by tone. */
export function ToneBar({ value, label }: { value: number | null; label: string }) {
  return (
    <span role="img" aria-label={label} className="block h-[7px] w-full bg-pit">
      <span className="block h-full bg-[#9a9a9a]" style={{ width: `${Math.max(0, Math.min(1, value ?? 0)) * 100}%` }} />
    </span>
  );
}

/** A share of the noise, by texture. */
export function GrainBar({ value, label }: { value: number | null; label: string }) {
  return (
    <span role="img" aria-label={label} className="block h-[7px] w-full bg-pit">
      <span className="grain block h-full" style={{ width: `${Math.max(0, Math.min(1, value ?? 0)) * 100}%` }} />
    </span>
  );
}

/** A figure of the panel's head. */
export function Stat({
  title,
  value,
  beside,
  tip,
}: {
  title: string;
  value: ReactNode;
  beside?: ReactNode;
  tip: ReactNode;
}) {
  return (
    <Tip text={tip} side="bottom">
      <div className="min-w-0 flex-1 border-r border-line px-3.5 py-2.5 last:border-r-0">
        <div className="text-dim">{title}</div>
        <div className="flex items-baseline gap-1.5 whitespace-nowrap">
          <span className="num text-[17px] leading-6 font-semibold">{value}</span>
          {beside !== undefined && <span className="num text-[11px] text-dim">{beside}</span>}
        </div>
      </div>
    </Tip>
  );
}
