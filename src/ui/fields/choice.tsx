'use client';

import { Check, ChevronDown } from 'lucide-react';
import { Select } from 'radix-ui';

export interface ChoiceOption {
  value: string;
  label: string;
  /** Heading it stands under. */
  under?: string;
}

const asOption = (o: string | ChoiceOption): ChoiceOption => (typeof o === 'string' ? { value: o, label: o } : o);

/** One of several. `value` of null shows `placeholder`: nothing is chosen, or what is chosen differs. */
export function Choice({
  label,
  value,
  options,
  onChange,
  placeholder = '',
  width = '',
}: {
  label: string;
  value: string | null;
  options: readonly (string | ChoiceOption)[];
  onChange: (value: string) => void;
  placeholder?: string;
  width?: string;
}) {
  const all = options.map(asOption);
  const headings = [...new Set(all.map((o) => o.under ?? ''))];
  return (
    <Select.Root value={value ?? ''} onValueChange={(v) => v !== '' && onChange(v)}>
      <Select.Trigger
        aria-label={label}
        className={`flex items-center gap-1 rounded-sm border border-line bg-pit py-[3px] pr-1 pl-1.5 text-left hover:border-soft focus-visible:border-soft ${width}`}
      >
        <span className="min-w-0 flex-1 truncate">
          <Select.Value placeholder={placeholder || '–'} />
        </span>
        <ChevronDown size={12} className="shrink-0 text-dim" aria-hidden="true" />
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={2}
          collisionPadding={6}
          className="z-[60] max-h-[var(--radix-select-content-available-height)] min-w-[var(--radix-select-trigger-width)] overflow-hidden rounded-sm border border-line bg-panel shadow-xl"
        >
          <Select.Viewport className="p-1">
            {headings.map((heading) => (
              <Select.Group key={heading}>
                {heading && <Select.Label className="px-2 pt-1 pb-0.5 text-dim">{heading}</Select.Label>}
                {all
                  .filter((o) => (o.under ?? '') === heading)
                  .map((o) => (
                    <Select.Item
                      key={o.value}
                      value={o.value}
                      className="flex cursor-pointer items-center gap-1.5 rounded-sm py-1 pr-3 pl-1.5 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit"
                    >
                      <span className="flex w-3 shrink-0 justify-center">
                        <Select.ItemIndicator>
                          <Check size={11} />
                        </Select.ItemIndicator>
                      </span>
                      <Select.ItemText>{o.label}</Select.ItemText>
                    </Select.Item>
                  ))}
              </Select.Group>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
