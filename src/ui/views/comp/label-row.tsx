import type { ReactNode } from 'react';

/** Something that can be chosen, with what it is at the left. */
export function LabelRow({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex min-h-[24px] items-center gap-2">
      <span className="flex-1 text-soft">{label}</span>
      {children}
    </div>
  );
}
