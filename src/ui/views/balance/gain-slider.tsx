'use client';

import { Slider } from 'radix-ui';

/** Stops that the slider reaches, either way. */
const REACH = 6;
const percentOf = (stops: number) => ((Math.max(-REACH, Math.min(REACH, stops)) + REACH) / (2 * REACH)) * 100;

/** A gain by dragging, its end hatched from where the noise target breaks; a double click takes the gain away. */
export function GainSlider({
  label,
  stops,
  room,
  onChange,
  onSettled,
}: {
  label: string;
  stops: number;
  /** Stops that are left until the noise target breaks; null while that is not known. */
  room: number | null;
  onChange: (stops: number) => void;
  onSettled: () => void;
}) {
  const breaks = room === null ? 100 : percentOf(stops + room);
  return (
    <Slider.Root
      className="relative flex h-5 flex-1 touch-none items-center select-none"
      min={-REACH}
      max={REACH}
      step={0.05}
      value={[Math.max(-REACH, Math.min(REACH, stops))]}
      onValueChange={([next]) => onChange(next)}
      onValueCommit={onSettled}
      onDoubleClick={() => onChange(0)}
    >
      <Slider.Track className="relative h-[7px] grow">
        <span className="absolute inset-x-0 top-[3px] block h-px bg-[#5a5a5a]" />
        {breaks < 100 && (
          <span className="grain absolute inset-y-0 right-0 block" style={{ left: `${breaks}%` }} data-testid="noisy" />
        )}
        <span className="absolute top-[-1px] left-1/2 block h-[9px] w-px bg-dim" />
      </Slider.Track>
      <Slider.Thumb aria-label={`${label} gain in stops`} className="block h-3.5 w-2 rounded-sm bg-fill" />
    </Slider.Root>
  );
}
