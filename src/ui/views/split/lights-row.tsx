import { ChevronDown } from 'lucide-react';
import { useMemo } from 'react';
import { toast } from 'sonner';
import type { Output } from '@/core/outputs';
import { type LightSource, lightSources } from '@/core/scene';
import { words as plainWords } from '@/core/words';
import { Word } from '../../parts/controls';
import { Menu, MenuCheck } from '../../parts/menu';
import { useDocument } from '../../state/scene-now';
import { goneFrom, shineOf, shines, switched } from './shine';
import { vary } from './variant';
import { Choice } from './variant-choice';

const sourceWords = ({ name, members }: LightSource): string =>
  members.length > 1 ? `${plainWords(name)} and ${members.length - 1} alike` : plainWords(name);

/** Lights that shine: all, or the groups that are left on, and of a group the sources one by one. */
export function LightsRow({ output }: { output: Output }) {
  const document = useDocument();
  const all = useMemo(() => lightSources(document), [document]);
  const shine = shineOf(output.variant);
  const turn = (words: string, some: readonly LightSource[], on: boolean) => {
    const fault = vary(output, `light of ${words} ${on ? 'on' : 'off'}`, {
      'scope.lights': switched(shine, all, some, on),
    });
    if (fault) toast.error(fault);
  };
  const gone = goneFrom(shine, all);
  return (
    <Choice
      label="lights"
      differs={shine !== undefined}
      tip="Light groups, or single lights of them, that shine in this picture. What is off lights nothing, and is not seen either."
    >
      {[...new Set(all.map((s) => s.group))].map((group) => {
        const own = all.filter((s) => s.group === group);
        const on = own.filter((s) => shines(shine, s));
        const isWhole = on.length === own.length;
        const words = plainWords(group);
        return (
          <span key={group} className="flex items-center">
            <Word on={isWhole} className="!pr-1" onClick={() => turn(words, own, !isWhole)}>
              {words}
              {!isWhole && on.length > 0 && <span className="num"> {`${on.length} of ${own.length}`}</span>}
            </Word>
            {own.length > 1 && (
              <Menu
                trigger={
                  <button type="button" aria-label={`lights of ${words}`} className="text-dim hover:text-ink">
                    <ChevronDown size={11} />
                  </button>
                }
              >
                {own.map((s) => (
                  <MenuCheck
                    key={`${s.kind} ${s.name}`}
                    checked={shines(shine, s)}
                    onCheckedChange={(next) => turn(sourceWords(s), [s], next)}
                  >
                    {sourceWords(s)}
                  </MenuCheck>
                ))}
              </Menu>
            )}
          </span>
        );
      })}
      {gone.length > 0 && (
        <span className="text-[11.5px]" role="alert">
          {gone.map(plainWords).join(', ')} · not in this scene
        </span>
      )}
    </Choice>
  );
}
