'use client';

import { useState } from 'react';
import { type GroupMix, isKept, isNeutral, missingGroups, mixFactors, mixOf, taken, whyDark } from '@/core/moods';
import { type GroupNode, groupTree, partOf, withOuter } from '@/core/scene';
import { percent, share, words } from '@/core/words';
import { Plain, Stat, Tip } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { type Mixed, useFactors, useMixed, useMixedState, useMixNow, useSceneOf } from '../../state/mixing';
import { useMoods } from '../../state/moods-store';
import { useDocument, useSceneExposure } from '../../state/scene-now';
import { GroupHead, GroupRow } from './group-row';
import { KeepMood } from './keep-mood';
import { recordWhite, useOtherLights, WriteBack } from './write-back';
import { Written } from './written';

const MEASURED_AFTER_MS = 120;
const ROOM_AFTER_MS = 900;
const NOTHING = {};

/** Balance: relight the live picture or a finished film by its light groups, and keep moods. */
export function BalancePanel() {
  const mixed = useMixed('A');
  const isLiveOff = useDesk((s) => s.a.kind === 'live' && !s.live);
  if (!mixed || isLiveOff)
    return (
      <div className="flex flex-1 flex-col justify-center gap-2 px-8 text-center text-soft">
        <p className="font-semibold text-ink">
          {isLiveOff ? 'The live picture is off' : 'This film has no light groups'}
        </p>
        <p>
          {isLiveOff
            ? 'L starts it; or put a finished trial into A. Its light groups are then brightened, coloured and switched without rendering again.'
            : 'Put a trial into A whose recipe keeps them, or the live picture.'}
        </p>
      </div>
    );
  if (mixed.groups.length === 0)
    return <p className="px-8 py-10 text-center text-soft">Nothing in this scene gives light. Set-up adds lights.</p>;
  return <Strip mixed={mixed} />;
}

const isWhite = (color: readonly number[]): boolean => color.every((c) => Math.abs(c - 1) < 1e-3);

/** The light groups of a film in the mix at hand. */
function Strip({ mixed }: { mixed: Mixed }) {
  const { of, trial, groups, own, frame } = mixed;
  const mix = useMixNow(mixed);
  const other = useOtherLights(mixed);
  const document = useDocument();
  const trialScene = useSceneOf(trial);
  const moods = useMoods((s) => s.moods);
  const shown = useFactors('A');
  const target = useDesk((s) => s.target);
  const exposure = useSceneExposure();
  const { tick, isThere, isWhole } = useMixedState(mixed);
  const factors = shown?.factors ?? NOTHING;
  const asked = { of, groups: [...groups] };
  const measure = useAsk('relit', isThere ? { ...asked, factors, exposure } : null, {
    of: tick,
    afterMs: MEASURED_AFTER_MS,
    keep: true,
  }).answer;
  const full = mixFactors(groups, mix, own ?? NOTHING);
  const room = useAsk('headroom', isThere && isWhole ? { ...asked, factors: full, target } : null, {
    of: tick,
    afterMs: ROOM_AFTER_MS,
  }).answer;
  const [folded, setFolded] = useState<readonly string[]>([]);
  if (!moods) return null;
  const toggle = (name: string) =>
    setFolded(folded.includes(name) ? folded.filter((f) => f !== name) : [...folded, name]);
  const tree = groupTree(groups).map((node) => ({
    node,
    isOuter: node.groups[0] !== node.name,
    isHidden: withOuter(node.name).some((n) => n !== node.name && folded.includes(n)),
  }));
  const change = (words: string, group: string, to: Partial<GroupMix>, dragKey?: string) =>
    useMoods.getState().mix(words, { ...mix, [group]: { ...mixOf(mix, group), ...to } }, frame, dragKey);
  const isBase = (name: string) => groups.some((g) => partOf(g).group === name);
  const whiteOf = ({ name }: GroupNode) =>
    other === null && isBase(name) && own?.[name] && !isWhite(own[name]) ? () => recordWhite([name], own) : null;
  const colored = tree.flatMap(({ node }) => (whiteOf(node) ? [node.name] : []));
  const isDark = (g: string) => measure !== null && mixOf(mix, g).on && measure.shares[g] === 0;
  const mood = moods.list.find((m) => m.id === moods.now.mood);
  const neutral = isNeutral(mix, groups);
  const missing = missingGroups(mix, groups);
  const [most] = Object.entries(measure?.beyond.byGroup ?? {}).sort((a, b) => b[1] - a[1]);
  const burning = most && most[1] > 0 ? words(withOuter(most[0])[0]) : undefined;
  const state = mood ? mood.name : neutral ? 'as rendered' : 'not kept';
  return (
    <>
      <div className="flex border-b border-line">
        <Stat
          title="Noise as mixed"
          value={<span data-testid="relit-noise">{percent(measure?.noise?.rms)}</span>}
          beside={`of ${target}`}
          tip="Noise of the picture as it is mixed now, formed from both halves of the film and measured like any other. Brightening a noisy group brings its noise forward."
        />
        <Stat
          title="As rendered"
          value={percent(measure?.plain?.rms ?? trial?.noise?.rms)}
          tip="Noise of the picture as it was rendered."
        />
        <Stat
          title="Beyond white"
          value={share(measure?.beyond.share)}
          beside={burning}
          tip="Pixels whose light is beyond display white as it is mixed now, and the group that gives most of it there. W hatches them."
        />
      </div>
      <Tip
        text="The mood that is at hand. Moods belong to the shot: they stay with it whatever is rendered."
        side="bottom"
      >
        <p className="flex gap-2 border-b border-line px-3.5 py-1.5">
          <span className="text-dim">Mood</span>
          <span className="min-w-0 flex-1 font-semibold" data-testid="mood-now">
            {state}
          </span>
          {mood && !isKept(moods) && <span className="text-soft">changed</span>}
        </p>
      </Tip>
      <div className="min-h-0 flex-1 overflow-y-auto py-1.5" data-testid="groups">
        <GroupHead onWhite={colored.length > 1 ? () => recordWhite(colored, own!) : null} />
        {tree.map(({ node, isOuter, isHidden }) =>
          isHidden ? null : (
            <GroupRow
              key={node.name}
              of={of}
              tick={tick}
              node={node}
              fold={isOuter ? { folded: folded.includes(node.name), change: () => toggle(node.name) } : null}
              value={mixOf(mix, node.name)}
              onChange={(said, to, drag) => change(said, node.name, to, drag)}
              own={own?.[node.name] ?? null}
              share={measure?.shares[node.name] ?? null}
              noise={measure?.byGroup[node.name]?.rms ?? null}
              room={room?.[node.name] ?? null}
              onWhite={whiteOf(node)}
              dark={
                isDark(node.name)
                  ? (whyDark(trialScene ?? document, node.name) ?? 'none of its light reaches what is seen')
                  : null
              }
            />
          ),
        )}
        {missing.length > 0 && (
          <p className="px-3.5 py-2 text-soft" data-testid="missing-groups">
            The mix also holds {missing.map(words).join(', ')}, which this film does not keep apart.
          </p>
        )}
      </div>
      <Written />
      {other && !neutral && <p className="px-3.5 pb-2 text-soft">{other}</p>}
      <div className="flex items-center gap-1.5 border-t border-line px-3.5 py-2.5 whitespace-nowrap">
        <Plain
          disabled={neutral && !mood}
          onClick={() => useMoods.getState().replace('as rendered', taken(moods, null))}
        >
          As rendered
        </Plain>
        <WriteBack moods={moods} own={own} mix={mix} disabled={other !== null} />
        <KeepMood moods={moods} disabled={neutral && missing.length === 0} />
      </div>
    </>
  );
}
