import type { ReactNode } from 'react';

/** What is told of a run, after the word for it. */
export function Fact({ words, children, testid }: { words: string; children: ReactNode; testid?: string }) {
  return (
    <div className="flex px-3.5 py-0.5" data-testid={testid}>
      <span className="w-[74px] shrink-0 text-dim">{words}</span>
      <div className="min-w-0 flex-1">{children}</div>
    </div>
  );
}
