'use client';

import { Check, ChevronRight } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';

const ITEM =
  'flex cursor-pointer justify-between gap-6 rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit data-[disabled]:opacity-45';

/** A list of things to do that opens from a button. */
export function Menu({
  trigger,
  children,
  align = 'start',
  width = 'min-w-40',
}: {
  trigger: ReactNode;
  children: ReactNode;
  align?: 'start' | 'end';
  width?: string;
}) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          collisionPadding={6}
          className={`z-40 max-h-[70vh] overflow-y-auto rounded-sm border border-line bg-panel p-1 shadow-xl ${width}`}
          // Esc closes the menu, and stops no picture with it.
          onKeyDown={(e) => e.stopPropagation()}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export function MenuItem({ className, ...props }: DropdownMenu.DropdownMenuItemProps) {
  return <DropdownMenu.Item {...props} className={`${ITEM} ${className ?? ''}`} />;
}

/** A thing that is on or off; the menu stays, so that several can be changed. */
export function MenuCheck({ children, ...props }: DropdownMenu.DropdownMenuCheckboxItemProps) {
  return (
    <DropdownMenu.CheckboxItem {...props} className={ITEM} onSelect={(e) => e.preventDefault()}>
      {children}
      <span className="w-3">
        <DropdownMenu.ItemIndicator>
          <Check size={12} aria-hidden="true" />
        </DropdownMenu.ItemIndicator>
      </span>
    </DropdownMenu.CheckboxItem>
  );
}

/** Items of one kind that open beside their name. */
export const MenuMore = ({ name, children }: { name: string; children: ReactNode }) => (
  <DropdownMenu.Sub>
    <DropdownMenu.SubTrigger className={`${ITEM} data-[state=open]:bg-fill data-[state=open]:text-pit`}>
      {name}
      <ChevronRight size={12} className="self-center" aria-hidden="true" />
    </DropdownMenu.SubTrigger>
    <DropdownMenu.Portal>
      <DropdownMenu.SubContent
        collisionPadding={6}
        className="z-40 max-h-[70vh] min-w-40 overflow-y-auto rounded-sm border border-line bg-panel p-1 shadow-xl"
      >
        {children}
      </DropdownMenu.SubContent>
    </DropdownMenu.Portal>
  </DropdownMenu.Sub>
);

export const MenuLine = () => <DropdownMenu.Separator className="my-1 h-px bg-line" />;

export const MenuHeading = ({ children }: { children: ReactNode }) => (
  <DropdownMenu.Label className="px-2 pt-1 pb-0.5 text-dim">{children}</DropdownMenu.Label>
);
