'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { MoreHorizontal, Plus } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { Trial } from '@/contract/trial';
import { layerInfo } from '@/core/film';
import {
  FIRST_OUTPUTS,
  fittedTo,
  isOfVariant,
  type Output,
  type Outputs,
  possibleLayers,
  STARTS,
  type Start,
  variantOf,
} from '@/core/outputs';
import { canonicalJson } from '@/core/recipe';
import { counted, two } from '@/core/words';
import { Tip, Word } from '../../parts/controls';
import { Menu, MenuHeading, MenuItem, MenuLine } from '../../parts/menu';
import { NameDialog } from '../../parts/name-dialog';
import { api } from '../../state/api';
import { useDesk } from '../../state/desk-store';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useDocument, useSceneGroups } from '../../state/scene-now';
import { tell as tellFault } from '../../state/tell';
import { choose, renameOutput } from '../../state/variants';
import { showOutput } from './shown-picture';

const newId = () => crypto.randomUUID().replaceAll('-', '').slice(0, 12);

/** A name that no output has yet. */
function freeName(outputs: Outputs, base: string): string {
  const taken = (name: string) => outputs.list.some((o) => o.name === name);
  if (!taken(base)) return base;
  let n = 2;
  while (taken(`${base}-${n}`)) n++;
  return `${base}-${n}`;
}

/** The outputs of the shot by name; the one that is edited is filled. */
export function OutputHead({
  outputs,
  output,
  trial,
}: {
  outputs: Outputs;
  output: Output | null;
  trial: Trial | null;
}) {
  const [renaming, setRenaming] = useState(false);
  const { replace } = useOutputs.getState();
  const tell = (fault: string | null) => fault && toast.error(fault);
  const add = (from: Output, base: string) => {
    const made = { ...from, id: newId(), name: freeName(outputs, base) };
    tell(replace(`output ${made.name} added`, { ...outputs, list: [...outputs.list, made] }, made.id));
  };
  const hasFog = useDocument().fogs.length > 0;
  const start = (from: Start) => {
    let list = outputs.list;
    for (const own of from.outputs) {
      const name = freeName({ ...outputs, list }, own.name);
      list = [...list, { ...FIRST_OUTPUTS.list[0], ...own, id: newId(), name }];
    }
    const made = list[outputs.list.length];
    tell(replace(`output ${made.name} added`, { ...outputs, list }, made.id));
    showOutput(made);
    if (!made.layers.includes('beauty'))
      useDesk.getState().set({ layer: made.layers[0], overlay: 'none', range: null });
    if (from.choose) choose(from.choose);
  };
  const queries = useQueryClient();
  const kept = useQuery({ queryKey: ['own outputs'], queryFn: api.ownOutputs }).data?.outputs ?? [];
  const keep = (asked: Promise<unknown>, words: string) => {
    asked.then(() => {
      toast.success(words);
      return queries.invalidateQueries({ queryKey: ['own outputs'] });
    }, tellFault);
  };
  const film = useRecipe((s) => s.recipe!.film);
  const groups = useSceneGroups();
  const take = (from: Output) => {
    const { output: fitted, misfits } = fittedTo(from, possibleLayers(film, groups, from.layers, outputs.masks));
    add(fitted, from.name);
    if (misfits.length > 0)
      toast(`${from.name}: ${counted(misfits.length, 'layer')} left out`, {
        description: `This shot has no ${misfits.map((n) => layerInfo(n).words).join(', ')}.`,
        duration: 12000,
      });
  };
  const frozen = trial?.outputs ?? null;
  const variant = variantOf(frozen);
  const others = outputs.list.filter((o) => !isOfVariant(o, variant));
  const own = outputs.list.filter((o) => isOfVariant(o, variant));
  // The database keeps the settings of a variant in an order of its own.
  const differs = frozen !== null && canonicalJson(frozen) !== canonicalJson({ ...outputs, list: own });
  return (
    <div className="flex flex-wrap items-center gap-1 border-b border-line px-3 py-1.5" data-testid="outputs">
      <Tip
        side="left"
        text="What leaves this shot. Outputs are kept with it, and frozen with every trial: the film keeps what they write."
      >
        <h2 className="mr-1 text-dim">outputs</h2>
      </Tip>
      {outputs.list.map((o) => (
        <Word key={o.id} on={o.id === output?.id} onClick={() => showOutput(o)}>
          {o.name}
          {!isOfVariant(o, null) && <span className={o.id === output?.id ? '' : 'text-dim'}> ◦</span>}
        </Word>
      ))}
      <Menu
        trigger={
          <button type="button" aria-label="add an output" className="p-1 text-soft hover:text-ink">
            <Plus size={13} />
          </button>
        }
      >
        <MenuItem onSelect={() => add(FIRST_OUTPUTS.list[0], 'output')}>What a comp asks for first</MenuItem>
        <MenuHeading>with pictures of their own</MenuHeading>
        {STARTS.filter((s) => !s.needsFog || hasFog).map((s) => (
          <MenuItem key={s.words} onSelect={() => start(s)}>
            <Tip text={s.tip} side="left">
              <span>{s.words}</span>
            </Tip>
          </MenuItem>
        ))}
        {kept.length > 0 && <MenuHeading>kept for all shots</MenuHeading>}
        {kept.map((o) => (
          <MenuItem key={o.name} onSelect={() => take(o)}>
            {o.name}
          </MenuItem>
        ))}
      </Menu>
      {output && (
        <Menu
          trigger={
            <button type="button" aria-label={`output ${output.name}: more`} className="p-1 text-soft hover:text-ink">
              <MoreHorizontal size={13} />
            </button>
          }
        >
          <MenuItem onSelect={() => setRenaming(true)}>Rename …</MenuItem>
          <MenuItem onSelect={() => add(output, `${output.name}-2`)}>Duplicate</MenuItem>
          <MenuItem onSelect={() => keep(api.keepOutput(output), `${output.name} is kept for all shots.`)}>
            Keep for all shots
          </MenuItem>
          {kept.some((o) => o.name === output.name) && (
            <MenuItem onSelect={() => keep(api.dropOutput(output.name), `${output.name} is this shot’s alone now.`)}>
              Keep no longer for all
            </MenuItem>
          )}
          <MenuLine />
          <MenuItem
            onSelect={() =>
              tell(
                replace(`output ${output.name} removed`, {
                  ...outputs,
                  list: outputs.list.filter((o) => o.id !== output.id),
                }),
              )
            }
          >
            Remove
          </MenuItem>
        </Menu>
      )}
      <span className="flex-1" />
      {differs && (
        <Tip
          text={`Trial ${two(trial!.number)} was logged with other outputs. This puts them in the place of these; undo goes back.`}
        >
          <Word
            onClick={() =>
              tell(replace(`outputs of ${two(trial!.number)}`, { ...frozen, list: [...frozen.list, ...others] }))
            }
          >
            as in {two(trial!.number)}
          </Word>
        </Tip>
      )}
      {!output && <span className="text-soft">Nothing leaves this shot yet: add an output.</span>}
      {renaming && output && (
        <NameDialog
          title={`Rename output ${output.name}`}
          label="name of the output"
          action="Rename"
          initial={output.name}
          most={40}
          onClose={() => setRenaming(false)}
          onName={(name) => {
            const fault = renameOutput(output, name);
            if (fault) toast.error(fault);
            else setRenaming(false);
          }}
        />
      )}
    </div>
  );
}
