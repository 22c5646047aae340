'use client';

import { ChevronDown, Download } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { isFiltered } from '@/contract/denoised';
import type { Trial } from '@/contract/trial';
import { LAYER, layerInfo, stillKind } from '@/core/film';
import {
  allFiles,
  apartByLayer,
  chosenOf,
  DEPTHS,
  GROUPINGS,
  type NamedBy,
  type Output,
  type OutputFile,
  type Outputs,
} from '@/core/outputs';
import { bytes, counted, two } from '@/core/words';
import { Tip, Word } from '../../parts/controls';
import { Menu, MenuItem, MenuLine } from '../../parts/menu';
import { takeFile } from '../../parts/save-file';
import { cutQuery } from '../../state/cut-query';
import { useOutputs } from '../../state/outputs-store';
import { useIsDenoised, useSlotTrial } from '../../state/slots';
import { NameChips } from './name-chips';
import { NameText } from './name-text';
import { PackingMenu } from './packing-menu';
import { ProofLine } from './proof';
import { sizeOf } from './sizes';

const TAKEN = { no: 'as rendered', instead: 'denoised', beside: 'both' } as const;
type Taken = keyof typeof TAKEN;

const GROUPING_WORDS = { one: 'one', family: 'one a family', layer: 'one a layer' } as const;
const PARTS_WORDS = { many: 'a part a layer', one: 'one part' } as const;

interface Props {
  outputs: Outputs;
  output: Output;
  chosen: string[];
  /** Layers that the output names and the film has not. */
  absent: string[];
  /** Layers that it names and that no film of this shot can have any more. */
  gone: string[];
  /** Layers there are to choose from. */
  all: readonly string[];
  trial: Trial | null;
  by: NamedBy;
}

/** How an output is written: depth, packing, files and their names; and its files, to be taken away. */
export function OutputFoot({ outputs, output, chosen, absent, gone, all, trial, by }: Props) {
  const [taken, setTaken] = useState<Taken | null>(null);
  const looked = useIsDenoised('A');
  const line = useSlotTrial('A')?.denoised ?? null;
  // What is looked at is taken, until it is said otherwise.
  const denoised = isFiltered(line) ? (taken ?? (looked ? 'instead' : 'no')) : null;
  const edit = <K extends keyof Output>(key: K, value: Output[K]) => {
    const words = typeof value === 'string' ? `${output.name}: ${key} ${value}` : `${output.name}: ${key}`;
    const fault = useOutputs.getState().edit(words, output.id, (o) => ({ ...o, [key]: value }));
    if (fault) toast.error(fault);
  };
  const group = (grouping: Output['grouping']) => {
    const names = grouping === 'one' ? output.names : apartByLayer(output.names);
    const fault = useOutputs
      .getState()
      .edit(`${output.name}: files ${GROUPING_WORDS[grouping]}`, output.id, (o) => ({ ...o, grouping, names }));
    if (fault) toast.error(fault);
  };
  // What the next trial brings.
  const late = absent.filter((n) => !gone.includes(n));
  const plan = allFiles(outputs.list, (o) => chosenOf(o, all).chosen, by).get(output.id)!;
  const bytesOf = (layers: readonly string[]) => sizeOf(layers, trial, output).most;
  const query = (layers: readonly string[]) => cutQuery(output, layers, denoised ?? 'no');
  const href = (file: OutputFile) => `/api/trials/${trial!.id}/film.exr?${query(file.layers)}&name=${file.name}`;
  const { files, faults } = plan;
  const stills = chosen.filter((n) => stillKind(n) !== null).length;
  const written = outputs.masks.filter((m) => chosen.includes(LAYER.mask(m.name)));
  return (
    <section className="border-t border-line px-3.5 py-2" aria-label="Output">
      <Row
        words="depth"
        tip="Automatic writes half where rounding stays below one part in a thousand, else float. Depth, masks and counts are always float."
      >
        {DEPTHS.map((d) => (
          <Word key={d} on={output.depth === d} onClick={() => edit('depth', d)}>
            {d}
          </Word>
        ))}
        <span className="flex-1" />
        <Tip
          text="Stands before the names of layers in the files, to tell them from those of other shots. The beauty and ids keep their names, by which others know them."
          side="left"
        >
          <span className="mr-1 text-dim underline decoration-dotted">layers begin</span>
        </Tip>
        <NameText
          label="beginning of the layers’ names"
          text={output.prefix}
          onChange={(prefix) => edit('prefix', prefix)}
          dots={false}
          most={20}
          mayBeEmpty
          leastCh={6}
        />
      </Row>
      <Row
        words="packing"
        tip="How the file's bytes are made fewer. Where it loses, depth, ids and masks lose nothing: they go as ZIP. Tiles are for readers that look at a piece at a time."
      >
        <PackingMenu output={output} edit={edit} />
      </Row>
      <Row
        words="files"
        tip="One for all layers, one for each family of layers, or one for each layer; within a file, a part for each layer or all channels in one part."
      >
        {GROUPINGS.map((g) => (
          <Word key={g} on={output.grouping === g} onClick={() => group(g)}>
            {GROUPING_WORDS[g]}
          </Word>
        ))}
        <span className="mx-0.5 h-3 w-px bg-line" />
        <Word onClick={() => edit('parts', output.parts === 'many' ? 'one' : 'many')}>{PARTS_WORDS[output.parts]}</Word>
      </Row>
      <Row words="names" tip="What the names of files are made of, one part after another.">
        <NameChips names={output.names} onChange={(names) => edit('names', names)} />
      </Row>
      <p className="num mb-1.5 truncate pl-16 text-[11.5px] text-soft" data-testid="file-names">
        {files[0]?.name ?? '–'}
        {files.length > 1 && ` and ${files.length - 1} more`}
      </p>
      {faults.map((f) => (
        <p key={f} className="mb-1.5 text-[11.5px]" role="alert">
          {f}
        </p>
      ))}
      {denoised && (
        <Row
          words="noise"
          tip="Denoised parts still add up to their beauty. Beside the plain ones their names begin with denoised. The file's header says at which strength."
        >
          {(Object.keys(TAKEN) as Taken[]).map((t) => (
            <Word key={t} on={denoised === t} onClick={() => setTaken(t)}>
              {TAKEN[t]}
            </Word>
          ))}
        </Row>
      )}
      {gone.length > 0 && (
        <p className="mb-1.5 text-[11.5px]" role="status" data-testid="gone">
          This shot has no {gone.map((n) => layerInfo(n).words).join(', ')} any more.
          <Word
            onClick={() =>
              edit(
                'layers',
                output.layers.filter((n) => !gone.includes(n)),
              )
            }
          >
            leave out
          </Word>
        </p>
      )}
      {trial && late.length > 0 && (
        <p className="mb-1.5 text-[11.5px] text-soft" role="status" data-testid="absent">
          {counted(late.length, 'chosen layer')} not in {two(trial.number)}: log a trial (T) to have{' '}
          {late.length === 1 ? 'it' : 'them'}.
        </p>
      )}
      {trial && chosen.length > 0 && (
        <ProofLine
          trial={trial.id}
          query={query(chosen)}
          masks={written}
          onRepair={({ key, value }) => edit(key, value)}
        />
      )}
      <div className="flex items-center gap-2">
        {trial && chosen.length > 0 && faults.length === 0 ? (
          <>
            <Files files={files} href={href} number={trial.number} bytesOf={bytesOf} />
            {stills > 0 && (
              <Tip text="Each chosen layer as a PNG of its own, in one .zip: light as it is displayed, in 8 bits, and data from 0 to 1 as they are, in 16. What PNG cannot hold is left out.">
                <Word
                  className="shrink-0 whitespace-nowrap underline"
                  onClick={() =>
                    takeFile(
                      `/api/trials/${trial.id}/stills.zip?${cutQuery(output, chosen, denoised && denoised !== 'no' ? 'instead' : 'no')}`,
                    )
                  }
                >
                  {stills === chosen.length ? 'as PNG' : `${stills} as PNG`}
                </Word>
              </Tip>
            )}
          </>
        ) : (
          <span className="text-soft">
            {chosen.length === 0
              ? 'Choose at least one layer.'
              : trial
                ? 'Put the names right to take files away.'
                : 'Log a trial (T): its film keeps all that is chosen here.'}
          </span>
        )}
        <span className="flex-1" />
        {trial && chosen.length > 0 && (
          <Tip text="What the chosen layers take before they are packed.">
            <span className="num whitespace-nowrap text-dim">
              {chosen.length} layers, {output.depth === 'auto' ? '≤ ' : ''}
              {bytes(bytesOf(chosen))}
            </span>
          </Tip>
        )}
      </div>
    </section>
  );
}

function Row({ words, tip, children }: { words: string; tip: string; children: React.ReactNode }) {
  return (
    <div className="mb-1 flex items-start gap-0.5">
      <Tip text={tip} side="left">
        <span className="w-16 shrink-0 py-0.5 text-dim underline decoration-dotted">{words}</span>
      </Tip>
      <div className="flex min-w-0 flex-1 flex-wrap items-center gap-0.5">{children}</div>
    </div>
  );
}

const BUTTON =
  'flex shrink-0 items-center gap-2 whitespace-nowrap rounded-sm bg-fill px-3 py-1.5 font-semibold text-pit hover:bg-white';

/** Between files, so that the browser takes every one. */
const APART_MS = 400;

/** Takes files away one after another. */
async function takeAll(addresses: readonly string[]): Promise<void> {
  for (const href of addresses) {
    takeFile(href);
    await new Promise((done) => setTimeout(done, APART_MS));
  }
}

/** The one file of an output, or a list of them. */
function Files({
  files,
  href,
  number,
  bytesOf,
}: {
  files: readonly OutputFile[];
  href: (file: OutputFile) => string;
  number: number;
  bytesOf: (layers: readonly string[]) => number;
}) {
  if (files.length === 1)
    return (
      <a className={BUTTON} href={href(files[0])} download data-testid="download">
        <Download size={13} /> OpenEXR of {two(number)}
      </a>
    );
  return (
    <Menu
      trigger={
        <button type="button" className={BUTTON} data-testid="download-files">
          <Download size={13} /> {files.length} files of {two(number)} <ChevronDown size={12} />
        </button>
      }
    >
      <MenuItem onSelect={() => void takeAll(files.map(href))}>all, one after another</MenuItem>
      <MenuLine />
      {files.map((f) => (
        <MenuItem key={f.name} asChild>
          <a href={href(f)} download>
            <span className="num">{f.name}</span>
            <span className="num text-dim">{bytes(bytesOf(f.layers))}</span>
          </a>
        </MenuItem>
      ))}
    </Menu>
  );
}
