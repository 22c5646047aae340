import { Slider } from 'radix-ui';
import { toast } from 'sonner';
import { OPEN_REACHES, reachNumber } from '@/core/film';
import type { Output } from '@/core/outputs';
import { Tip } from '../../parts/controls';
import { settle } from '../../state/history';
import { useOutputs } from '../../state/outputs-store';

const metres = (m: number) => (m < 1 ? `${(m * 100).toFixed(m < 0.1 ? 1 : 0)} cm` : `${m.toFixed(m < 10 ? 1 : 0)} m`);

const DRAG = 'reach of openness';

/** How far openness looks, scrubbed after the render: films keep it by reach. What is chosen is what the output writes. */
export function ReachLine({ output }: { output: Output }) {
  const at = reachNumber(output.reachMetres);
  const choose = (number: number) => {
    const reachMetres = number < OPEN_REACHES.length ? OPEN_REACHES[number] : null;
    const words = `${output.name}: openness up to ${reachMetres === null ? 'the end' : metres(reachMetres)}`;
    const fault = useOutputs.getState().edit(words, output.id, (o) => ({ ...o, reachMetres }), DRAG);
    if (fault) toast.error(fault);
  };
  return (
    <div className="flex h-8 items-center gap-3 border-b border-line bg-raised px-3.5">
      <Tip
        text="Things further away than this do not darken. Kept in steps with the film, so that it needs no other render."
        side="left"
      >
        <span className="text-dim underline decoration-dotted">reach</span>
      </Tip>
      <Slider.Root
        value={[at]}
        min={0}
        max={OPEN_REACHES.length}
        step={1}
        onValueChange={([n]) => choose(n)}
        onValueCommit={settle}
        className="relative flex h-4 flex-1 items-center"
      >
        <Slider.Track className="relative h-px grow bg-[#5a5a5a]" />
        <Slider.Thumb aria-label="reach of openness" className="block h-3.5 w-2 rounded-sm bg-fill" />
      </Slider.Root>
      <span className="num w-16 text-right" data-testid="reach">
        {output.reachMetres === null ? 'to the end' : metres(OPEN_REACHES[at])}
      </span>
    </div>
  );
}
