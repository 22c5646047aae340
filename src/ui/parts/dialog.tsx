'use client';

import { Dialog as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

/** Where a dialog stands, by what it is for. */
const PLACES = {
  /** A question of a line or two. */
  question: 'top-1/3 left-1/2 w-80 -translate-x-1/2 p-4',
  /** A form. */
  form: 'top-24 left-1/2 w-[560px] -translate-x-1/2 p-5',
  /** A list that is searched. */
  list: 'top-24 left-1/2 w-[460px] -translate-x-1/2',
  /** A page of its own. */
  page: 'top-16 left-1/2 w-[640px] -translate-x-1/2 p-5',
  /** Nearly all of the screen. */
  sheet: 'inset-8 flex flex-col',
} as const;

/** What stands over the page until it is answered or left. */
export function Dialog({
  title,
  place,
  open = true,
  onClose,
  children,
  header,
  className = '',
  testId,
}: {
  title: string;
  place: keyof typeof PLACES;
  open?: boolean;
  onClose: () => void;
  children: ReactNode;
  /** Takes the place of the title, which is then told to those who do not see. */
  header?: ReactNode;
  className?: string;
  testId?: string;
}) {
  return (
    <Radix.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Radix.Content
          aria-describedby={undefined}
          data-testid={testId}
          // Keys of the page are not those of what stands over it.
          onKeyDown={(e) => e.stopPropagation()}
          className={`fixed z-50 rounded-sm border border-line bg-panel shadow-2xl ${PLACES[place]} ${className}`}
        >
          <Radix.Title className={header === undefined ? 'pb-3 text-[15px] font-semibold' : 'sr-only'}>
            {title}
          </Radix.Title>
          {header}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
