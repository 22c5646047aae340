'use client';

import { Popover as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

/** What opens beside its button and goes with a click elsewhere. */
export function Popover({
  trigger,
  children,
  width = '',
  side,
  align,
  open,
  onOpenChange,
  testId,
}: {
  trigger: ReactNode;
  children: ReactNode;
  width?: string;
  side?: 'top' | 'bottom' | 'left' | 'right';
  align?: 'start' | 'end' | 'center';
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  testId?: string;
}) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          side={side}
          align={align}
          collisionPadding={6}
          data-testid={testId}
          className={`z-40 rounded-sm border border-line bg-panel p-3 shadow-xl ${width}`}
          onKeyDown={(e) => e.stopPropagation()}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
