'use client';

import { Download, Eye } from 'lucide-react';
import { Checkbox } from 'radix-ui';
import { useState } from 'react';
import { isFiltered } from '@/contract/denoised';
import { finished, type Trial } from '@/contract/trial';
import type { Depth } from '@/core/exr';
import { FAMILIES, type FamilyName, LAYER, layerInfo, layersKept, MEASURED_LAYERS, TALLY_LIMITS } from '@/core/film';
import { COVERAGE_SLOTS } from '@/core/kernel';
import type { TallyMeasure } from '@/render/questions/tally';
import { Stat, Tip, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { bytes, count, two } from '../../state/format';
import { useRecipe } from '../../state/recipe-store';
import { useSceneGroups } from '../../state/scene-now';
import { useIsDenoised, useSlotFilm, useSlotTrial, useWholeSlot } from '../../state/slots';
import { trialLayers } from '../../state/sources';

const FAMILY_ORDER = Object.keys(FAMILIES) as FamilyName[];
/** Halves of single groups are there to measure noise: they are not listed one by one. */
const isListed = (name: string) => layerInfo(name).family !== 'group_half';
/** Split: look at every layer, see that parts add up, choose outputs and take them away as OpenEXR. */
export function SplitPanel() {
  const whole = useWholeSlot('A');
  const trial = whole && finished(whole) ? whole : null;
  const sceneGroups = useSceneGroups();
  const film = useRecipe((s) => s.recipe!.film);
  const layer = useDesk((s) => s.layer);
  const isPlain = useDesk((s) => s.overlay === 'none');
  const names = (trial ? trialLayers(trial) : layersKept(film, sceneGroups)).filter(isListed);
  const sections = FAMILY_ORDER.map((family) => ({
    family,
    ...FAMILIES[family],
    layers: names.filter((n) => layerInfo(n).family === family),
  })).filter((s) => s.layers.length > 0);
  const unmasked = trial?.figures?.unmasked ?? 0;
  const [left, setLeft] = useState<Set<string>>(() => new Set([LAYER.half('a'), LAYER.half('b'), ...MEASURED_LAYERS]));
  const [depth, setDepth] = useState<Depth>('auto');
  const [one, setOne] = useState(false);
  const looked = useIsDenoised('A');
  const line = useSlotTrial('A')?.denoised ?? null;
  const [taken, setTaken] = useState<Taken | null>(null);
  // What is looked at is taken, until it is said otherwise.
  const denoised = isFiltered(line) ? (taken ?? (looked ? 'instead' : 'no')) : null;
  const chosen = names.filter((n) => !left.has(n));
  const toggle = (n: string) => {
    const next = new Set(left);
    if (!next.delete(n)) next.add(n);
    setLeft(next);
  };
  return (
    <>
      <TallyHead trial={trial} names={names} />
      <div className="min-h-0 flex-1 overflow-y-auto py-1" data-testid="layers">
        {sections.map((s) => (
          <section key={s.title} aria-label={s.title}>
            <div className="flex items-center px-3.5 pt-2 pb-0.5">
              <Tip text={s.tip} side="left">
                <h3 className="flex-1 font-semibold">{s.title}</h3>
              </Tip>
              {s.layers.length > 1 && (
                <Word
                  className="text-[11px]"
                  onClick={() => {
                    const next = new Set(left);
                    const all = s.layers.every((n) => !next.has(n));
                    for (const n of s.layers) all ? next.add(n) : next.delete(n);
                    setLeft(next);
                  }}
                >
                  {s.layers.every((n) => !left.has(n)) ? 'none' : 'all'}
                </Word>
              )}
            </div>
            {s.family === 'feature' && unmasked > 0 && (
              <p className="px-3.5 pb-1 text-[11.5px] text-soft" role="status">
                {count(unmasked)} samples are in no mask: their pixels hold more than {COVERAGE_SLOTS} objects.
              </p>
            )}
            {s.layers.map((n) => (
              <LayerRow
                key={n}
                name={n}
                chosen={!left.has(n)}
                shown={layer === n && isPlain}
                depth={depth}
                onToggle={() => toggle(n)}
              />
            ))}
          </section>
        ))}
      </div>
      <Outputs
        trial={trial}
        chosen={chosen}
        depth={depth}
        setDepth={setDepth}
        one={one}
        setOne={setOne}
        denoised={denoised}
        setDenoised={setTaken}
      />
    </>
  );
}

function LayerRow({
  name,
  chosen,
  shown,
  depth,
  onToggle,
}: {
  name: string;
  chosen: boolean;
  shown: boolean;
  depth: Depth;
  onToggle: () => void;
}) {
  const set = useDesk((s) => s.set);
  const { words, data, exact: float } = layerInfo(name);
  return (
    <div className={`flex h-[25px] items-center gap-2 pr-3.5 pl-3.5 ${shown ? 'bg-fill text-pit' : 'hover:bg-raised'}`}>
      <Checkbox.Root
        aria-label={`write ${words}`}
        checked={chosen}
        onCheckedChange={onToggle}
        className={`flex h-3.5 w-3.5 items-center justify-center rounded-sm border ${shown ? 'border-pit' : 'border-dim'}`}
      >
        <Checkbox.Indicator className={`block h-2 w-2 ${shown ? 'bg-pit' : 'bg-fill'}`} />
      </Checkbox.Root>
      <button
        type="button"
        aria-pressed={shown}
        className="flex min-w-0 flex-1 items-center gap-2 text-left"
        onClick={() => set({ layer: name, overlay: 'none', range: null })}
      >
        <span className="flex-1">{words}</span>
        {shown && <Eye size={13} aria-label="shown in the picture" />}
      </button>
      <span className={`num text-[11px] ${shown ? 'text-pit' : 'text-dim'}`}>
        {data && !float
          ? depth === 'float'
            ? 'float'
            : 'data'
          : float
            ? 'float'
            : depth === 'auto'
              ? 'half or float'
              : depth}
      </span>
    </div>
  );
}

/** Whether groups and classes sum to the beauty, measured on the stored film. */
function TallyHead({ trial, names }: { trial: Trial | null; names: string[] }) {
  const overlay = useDesk((s) => s.overlay);
  const of = useSlotFilm('A');
  const ask = (parting: 'group' | 'class') => (trial && of ? { of, parting, layers: names } : null);
  const group = useAsk('tally', ask('group'), { of: trial?.state }).answer;
  const pathClass = useAsk('tally', ask('class'), { of: trial?.state }).answer;
  const stat = (title: string, t: TallyMeasure | null | undefined, key: 'tally-group' | 'tally-class') => {
    const ok = t && t.maxError <= TALLY_LIMITS.float;
    return (
      <Stat
        title={title}
        value={
          <span data-testid={key}>
            {t ? `${Number.isFinite(t.decibels) ? t.decibels.toFixed(0) : '−∞'} dB`.replace('-', '−') : '–'}
          </span>
        }
        beside={t ? (ok ? 'adds up' : 'does not') : ''}
        tip={
          t
            ? `${t.parts} parts against the beauty, as stored in float: RMS error ${t.rmsError.toExponential(1)}, worst pixel ${t.maxError.toExponential(1)}; at most ${TALLY_LIMITS.float.toExponential(0)} counts as adding up. A file written as half carries its rounding on top, about 1e-3 at the worst pixel.`
            : 'Log a trial to tally its film.'
        }
      />
    );
  };
  return (
    <div className="border-b border-line">
      <div className="flex">
        {stat('Groups', group, 'tally-group')}
        {stat('Classes', pathClass, 'tally-class')}
      </div>
      {trial && (
        <div className="flex items-center gap-1 px-3 pb-2">
          <span className="text-dim">error as a picture</span>
          {(['tally-group', 'tally-class'] as const).map((o) => (
            <Word
              key={o}
              on={overlay === o}
              onClick={() => useDesk.getState().set({ overlay: overlay === o ? 'none' : o })}
            >
              {o === 'tally-group' ? 'groups' : 'classes'}
            </Word>
          ))}
        </div>
      )}
    </div>
  );
}

interface OutputsProps {
  trial: Trial | null;
  chosen: string[];
  depth: Depth;
  setDepth: (d: Depth) => void;
  one: boolean;
  setOne: (one: boolean) => void;
  /** Null where there is nothing denoised. */
  denoised: Taken | null;
  setDenoised: (taken: Taken) => void;
}

const TAKEN = { no: 'as rendered', instead: 'denoised', beside: 'both' } as const;
type Taken = keyof typeof TAKEN;

function Outputs({ trial, chosen, depth, setDepth, one, setOne, denoised, setDenoised }: OutputsProps) {
  const size = trial?.spec ? trial.spec.region.width * trial.spec.region.height : 0;
  const raw = chosen.map(layerInfo).reduce((n, l) => n + l.planes * size * (depth === 'float' || l.exact ? 4 : 2), 0);
  const href = trial
    ? `/api/trials/${trial.id}/film.exr?${new URLSearchParams({ layers: chosen.join(','), depth, parts: one ? 'one' : 'many', denoised: denoised ?? 'no' })}`
    : undefined;
  return (
    <section className="border-t border-line px-3.5 py-2.5" aria-label="Output">
      <div className="mb-1 flex items-center gap-1">
        <span className="w-16 text-dim">depth</span>
        {(['auto', 'half', 'float'] as const).map((d) => (
          <Word key={d} on={depth === d} onClick={() => setDepth(d)}>
            {d}
          </Word>
        ))}
        <Tip text="Automatic writes half where rounding stays below one part in a thousand, else float. Depth, masks and counts are always float and lossless.">
          <span className="ml-1 text-dim underline decoration-dotted">what is safe</span>
        </Tip>
      </div>
      <div className="mb-2.5 flex items-center gap-1">
        <span className="w-16 text-dim">file</span>
        <Word on={!one} onClick={() => setOne(false)}>
          a part a layer
        </Word>
        <Word on={one} onClick={() => setOne(true)}>
          all in one part
        </Word>
      </div>
      {denoised && (
        <div className="mb-2.5 flex items-center gap-1">
          <span className="w-16 text-dim">noise</span>
          {(Object.keys(TAKEN) as Taken[]).map((t) => (
            <Word key={t} on={denoised === t} onClick={() => setDenoised(t)}>
              {TAKEN[t]}
            </Word>
          ))}
          <Tip text="Denoised parts still add up to their beauty. Beside the plain ones their names begin with denoised. The file's header says at which strength.">
            <span className="ml-1 text-dim underline decoration-dotted">names</span>
          </Tip>
        </div>
      )}
      <div className="flex items-center gap-2">
        {trial && chosen.length > 0 ? (
          <a
            className="flex items-center gap-2 rounded-sm bg-fill px-3 py-1.5 font-semibold text-pit hover:bg-white"
            href={href}
            download
            data-testid="download"
          >
            <Download size={13} /> OpenEXR of {two(trial.number)}
          </a>
        ) : (
          <span className="text-soft">
            {trial
              ? 'Choose at least one layer.'
              : 'The live picture can be looked at; log a trial (T) to take layers away.'}
          </span>
        )}
        <span className="flex-1" />
        {trial && (
          <span className="num text-dim">
            {chosen.length} layers, {bytes(raw)} before packing
          </span>
        )}
      </div>
    </section>
  );
}
