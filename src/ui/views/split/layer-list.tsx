'use client';

import { ChevronDown, ChevronRight, Plus } from 'lucide-react';
import { Fragment, useMemo, useState } from 'react';
import { toast } from 'sonner';
import type { Trial } from '@/contract/trial';
import { FAMILIES, type FamilyName, LAYER, layerInfo, OPENNESS, PARTINGS, stillKind } from '@/core/film';
import { COVERAGE_SLOTS, PATH_CLASSES } from '@/core/kernel';
import { allOf, type Mask, type Output, toggled, WHOLE_FAMILIES, writes } from '@/core/outputs';
import { MOST_GROUPS, namedGroups } from '@/core/scene';
import { count, percent as percentOfWhite, words as plainWords, two } from '@/core/words';
import { SearchField } from '../../fields/search-field';
import { Tip, Word } from '../../parts/controls';
import { Menu, MenuHeading, MenuItem } from '../../parts/menu';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { maskOf } from '../../state/masks';
import { useOutputs } from '../../state/outputs-store';
import { useDocument } from '../../state/scene-now';
import { useShot } from '../../state/shot-store';
import { useIsDenoised, useSlotFilm } from '../../state/slots';
import { shownLayer } from '../../state/sources';
import { LayerFacts, NoisyParts } from './layer-facts';
import { LayerRow } from './layer-row';
import { FAMILY_ORDER, listed, percent } from './layers';
import { MaskEditor } from './mask-editor';
import { addMask } from './masks';
import { ReachLine } from './reach-line';
import { compareSum, summedFamily } from './summed';
import { useLayerNoise } from './use-layer-noise';

/** Families of many layers that few outputs need: closed until there is something of them. */
const CLOSED: readonly FamilyName[] = ['bounce', 'half', 'lost', 'pair', 'rest'];

/** How layers of a family are ordered. */
type Order = 'place' | 'light' | 'noise';

interface Props {
  output: Output;
  masks: readonly Mask[];
  /** Layers that a film of the shot can keep. */
  all: readonly string[];
  groups: readonly string[];
  trial: Trial | null;
  /** Layers of the trial's film; null for the live picture. */
  has: readonly string[] | null;
}

/** Every layer there can be, by family: those with a mark are written; a click on the words shows one. */
export function LayerList({ output, masks, all, groups, trial, has }: Props) {
  const [toggledOpen, setToggledOpen] = useState<Partial<Record<FamilyName, boolean>>>({});
  const of = useSlotFilm('A');
  const shares = useAsk('lightShares', trial && of && has ? { of, layers: [...has] } : null, {
    of: trial?.state,
    keep: true,
  }).answer;
  const noises = useLayerNoise(trial, has, output);
  const layer = useDesk((s) => s.layer);
  const isPlain = useDesk((s) => s.overlay === 'none');
  const looked = isPlain ? shownLayer(layer, has) : null;
  const unmasked = trial?.figures?.unmasked ?? 0;
  const document = useDocument();
  const named = useMemo(() => namedGroups(document).length, [document]);
  const edit = (words: string, layers: string[]) => {
    const fault = useOutputs.getState().edit(words, output.id, (o) => ({ ...o, layers }));
    if (fault) toast.error(fault);
  };
  const shot = useShot((s) => s.name);
  const looksDenoised = useIsDenoised('A');
  /** A layer of the trial's film as a PNG, as it is looked at. */
  const stillOf = (name: string) => {
    const query = new URLSearchParams({
      layers: name,
      written: output.layers.join(','),
      reach: output.reachMetres === null ? '' : String(output.reachMetres),
      denoised: looksDenoised ? 'instead' : 'no',
      name: `${shot.replace(/[^A-Za-z0-9._-]/g, '_')}_${output.name}_${name}_${two(trial!.number)}.png`,
    });
    return `/api/trials/${trial!.id}/layer.png?${query}`;
  };
  const [search, setSearch] = useState('');
  const [by, setBy] = useState<Order>('place');
  const worth = (n: string) => (by === 'light' ? shares?.[n] : noises?.[n]?.rms) ?? -1;
  const figure = (n: string): string | null => {
    const own = by === 'noise' ? noises?.[n]?.rms : shares?.[n];
    return own === undefined ? null : by === 'noise' ? percentOfWhite(own) : percent(own);
  };
  const found = listed(all).filter((n) => layerInfo(n).words.toLowerCase().includes(search.trim().toLowerCase()));
  const names = by === 'place' ? found : [...found].sort((a, b) => worth(b) - worth(a));
  const sections = FAMILY_ORDER.map((family) => ({
    family,
    layers: names.filter((n) => layerInfo(n).family === family),
  })).filter((s) => s.layers.length > 0 || (search === '' && (s.family === 'pair' || s.family === 'mask')));
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex h-8 shrink-0 items-center gap-2 border-b border-line px-3.5">
        <SearchField label="search layers" value={search} onChange={setSearch} />
        <Tip text="Within each family, what brings most of the light comes first." side="left">
          <Word on={by === 'light'} disabled={!shares} onClick={() => setBy(by === 'light' ? 'place' : 'light')}>
            by light
          </Word>
        </Tip>
        <Tip
          text="What is noisiest comes first, with the noise that it brings to the picture in percent of display white. Light groups have it: of them films keep halves."
          side="left"
        >
          <Word on={by === 'noise'} disabled={!noises} onClick={() => setBy(by === 'noise' ? 'place' : 'noise')}>
            by noise
          </Word>
        </Tip>
      </div>
      {sections.length === 0 && <p className="px-3.5 py-2 text-soft">No layer of that name.</p>}
      <div className="min-h-0 flex-1 overflow-y-auto py-1" data-testid="layers">
        {sections.map(({ family, layers }) => {
          const written = layers.filter((n) => writes(output, n));
          const isOpen =
            (search !== '' ? true : toggledOpen[family]) ??
            (!CLOSED.includes(family) || written.length > 0 || layers.some((n) => has?.includes(n)));
          const whole = WHOLE_FAMILIES.find((f) => f === family);
          const isWhole = written.length === layers.length;
          const setAll = () => {
            const rest = output.layers.filter((n) => !layers.includes(n) && n !== (whole && allOf(whole)));
            const { title } = FAMILIES[family];
            if (isWhole) edit(`${title.toLowerCase()} left out`, rest);
            else edit(`all ${title.toLowerCase()}`, [...rest, ...(whole ? [allOf(whole)] : layers)]);
          };
          return (
            <section key={family} aria-label={FAMILIES[family].title}>
              <div className="flex items-center gap-1 pt-2 pr-3.5 pb-0.5 pl-2">
                <button
                  type="button"
                  aria-expanded={isOpen}
                  aria-label={FAMILIES[family].title}
                  className="flex items-center gap-0.5"
                  onClick={() => setToggledOpen({ ...toggledOpen, [family]: !isOpen })}
                >
                  {isOpen ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
                  <Tip text={FAMILIES[family].tip} side="left">
                    <h3 className="font-semibold whitespace-nowrap">{FAMILIES[family].title}</h3>
                  </Tip>
                </button>
                <Written family={family} layers={layers} written={written} />
                <span className="flex-1" />
                {family === 'pair' && (
                  <AddPair
                    output={output}
                    groups={groups}
                    onAdd={(n) => edit(`layer ${layerInfo(n).words}`, [...output.layers, n])}
                  />
                )}
                {family === 'mask' && (
                  <button
                    type="button"
                    className="flex items-center gap-1 px-1 text-[11px] text-soft hover:text-ink"
                    onClick={() => {
                      const fault = addMask(output.id);
                      if (fault) toast.error(fault);
                    }}
                  >
                    <Plus size={11} /> mask
                  </button>
                )}
                {layers.length > 1 && (
                  <Tip
                    text={whole ? 'All of them, also those that come to the shot later.' : 'All of them.'}
                    side="left"
                  >
                    <Word className="text-[11px]" onClick={setAll}>
                      {isWhole ? 'none' : 'all'}
                    </Word>
                  </Tip>
                )}
              </div>
              <Unwritten
                family={family}
                layers={layers}
                written={written}
                shares={shares}
                output={output}
                onEdit={edit}
              />
              {family === 'group' && <NoisyParts written={written} noises={noises} />}
              {family === 'group' && named > groups.length && (
                <p className="px-3.5 pb-1 text-[11.5px]" role="alert" data-testid="many-groups">
                  {named} light groups, a film keeps {MOST_GROUPS}.
                  <Word className="text-[11px] underline" onClick={() => useDesk.getState().set({ face: 'lights' })}>
                    put some together
                  </Word>
                </p>
              )}
              {family === 'feature' && unmasked > 0 && (
                <p className="px-3.5 pb-1 text-[11.5px] text-soft" role="status">
                  {percent(unmasked / trial!.figures!.samples)} of what masks should hold is in none: {count(unmasked)}{' '}
                  samples, whose pixels hold more than {COVERAGE_SLOTS} objects.
                </p>
              )}
              {isOpen &&
                layers.map((n) => (
                  <Fragment key={n}>
                    <LayerRow
                      name={n}
                      chosen={writes(output, n)}
                      shown={looked === n}
                      absentFrom={has && !has.includes(n) ? trial : null}
                      figure={figure(n)}
                      still={trial && has?.includes(n) && stillKind(n) ? stillOf(n) : null}
                      onToggle={() =>
                        edit(
                          `layer ${layerInfo(n).words} ${writes(output, n) ? 'left out' : 'written'}`,
                          toggled(output, n, all),
                        )
                      }
                    />
                    {looked === n && trial && has?.includes(n) && (
                      <LayerFacts name={n} trial={trial} output={output} noise={noises?.[n]} />
                    )}
                    {looked === n && n === OPENNESS.layer && <ReachLine output={output} />}
                    {looked === n && maskOf(masks, n) && <MaskEditor mask={maskOf(masks, n)!} />}
                  </Fragment>
                ))}
            </section>
          );
        })}
      </div>
    </div>
  );
}

interface WrittenProps {
  family: FamilyName;
  layers: readonly string[];
  written: readonly string[];
}

/** How many of a family are written. */
function Written({ family, layers, written }: WrittenProps) {
  if (layers.length < 2 || written.length === 0) return null;
  return (
    <span className="num ml-1.5 text-[11px] whitespace-nowrap text-dim" data-testid={`written-${family}`}>
      {written.length} of {layers.length}
    </span>
  );
}

/** What of the light is in no written part of a family that sums to the picture. */
function Unwritten({
  family,
  layers,
  written,
  shares,
  output,
  onEdit,
}: WrittenProps & {
  shares: Record<string, number> | null;
  output: Output;
  onEdit: (words: string, layers: string[]) => void;
}) {
  const looked = useDesk((s) => s.layer);
  if (!shares || !FAMILIES[family].sums || written.length === 0) return null;
  const left = layers.filter((n) => !written.includes(n) && (shares[n] ?? 0) > 0);
  if (left.length === 0) return null;
  const missing = left.reduce((s, n) => s + shares[n], 0);
  const rest = LAYER.rest(family);
  const summed = PARTINGS.find((f) => f === family);
  return (
    <p className="px-3.5 pb-1 text-[11.5px]" role="status" data-testid={`unwritten-${family}`}>
      {writes(output, rest) ? (
        <>
          {percent(missing)} of the light is in the rest: {left.map((n) => layerInfo(n).words).join(', ')}
        </>
      ) : (
        <>
          {percent(missing)} of the light is unwritten: {left.map((n) => layerInfo(n).words).join(', ')}
          <Word
            className="text-[11px] underline"
            onClick={() => onEdit(`${layerInfo(rest).words} written`, [...output.layers, rest])}
          >
            write it as one layer
          </Word>
        </>
      )}
      {summed && (
        <Word className="text-[11px] underline" on={summedFamily(looked) === family} onClick={() => compareSum(summed)}>
          wipe picture against sum
        </Word>
      )}
    </p>
  );
}

/** Parts of one light group in one path class are asked for one by one. */
function AddPair({
  output,
  groups,
  onAdd,
}: {
  output: Output;
  groups: readonly string[];
  onAdd: (layer: string) => void;
}) {
  return (
    <Menu
      align="end"
      trigger={
        <button type="button" className="flex items-center gap-1 px-1 text-[11px] text-soft hover:text-ink">
          <Plus size={11} /> pair
        </button>
      }
    >
      {groups.map((g) => (
        <div key={g}>
          <MenuHeading>{plainWords(g)}</MenuHeading>
          {PATH_CLASSES.map((c) => (
            <MenuItem
              key={c}
              disabled={output.layers.includes(LAYER.pair(g, c))}
              onSelect={() => onAdd(LAYER.pair(g, c))}
            >
              {plainWords(g)} · {plainWords(c)}
            </MenuItem>
          ))}
        </div>
      ))}
    </Menu>
  );
}
