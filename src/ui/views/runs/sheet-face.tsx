'use client';

import { useQuery } from '@tanstack/react-query';
import type { Proof } from '@/contract/proof';
import type { Run, RunFrame } from '@/contract/run';
import { layerInfo, stillKind } from '@/core/film';
import type { Output } from '@/core/outputs';
import { COMP, filesOfFrame, runPictures } from '@/core/runs';
import { bytes } from '@/core/words';
import { Tip } from '../../parts/controls';
import { api } from '../../state/api';
import { cutQuery } from '../../state/cut-query';
import { useDesk } from '../../state/desk-store';
import { usePickedRun, useRun } from '../../state/runs';
import { useDocument } from '../../state/scene-now';
import { useShot } from '../../state/shot-store';

/** Every layer of every file of a frame of a run whose films are kept, and whether what is written adds up. */
export function SheetFace() {
  const picked = usePickedRun();
  const run = useRun(picked?.id ?? null);
  if (!picked)
    return (
      <p className="px-3.5 py-2 text-soft">
        “prove a frame” at the right renders one small frame of all pictures: every layer of every file stands here.
      </p>
    );
  if (!picked.keepsFilms)
    return (
      <p className="px-3.5 py-2 text-soft">
        This run keeps no films, so its files are all there is: “prove a frame” shows every layer before a run.
      </p>
    );
  return run ? <Sheet run={run} /> : null;
}

function Sheet({ run }: { run: Run }) {
  const a = useDesk((s) => (s.a.kind === 'trial' ? s.a.id : null));
  const document = useDocument();
  const shot = useShot((s) => s.name);
  const shown = run.rows.find((r) => r.id === a && r.state === 'done') ?? run.rows.find((r) => r.state === 'done');
  if (!shown) return <p className="px-3.5 py-2 text-soft">The first frame is being rendered.</p>;
  const rows = run.rows.filter((r) => r.frame === shown.frame);
  const { recipe, outputs } = run;
  const of = { document, recipe, outputs };
  const date = new Date(run.createdAt);
  const names = {
    shot,
    recipe: recipe.name,
    camera: run.camera,
    frames: { first: 1, last: 1 },
    trial: run.number,
    date,
  };
  const files = filesOfFrame(of, names, shown.frame).files.flat();
  const pictures = runPictures(of);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-3 pb-2" data-testid="sheet">
      {pictures.map((p, i) => {
        const row = rows.find((r) => JSON.stringify(run.variants[r.picture] ?? {}) === JSON.stringify(p.variant ?? {}));
        return p.outputs.map((o) => (
          <OutputSheet
            key={`${i} ${o.id}`}
            output={o}
            layers={files.filter((f) => f.output === o.name && f.output !== COMP).flatMap((f) => f.layers)}
            row={row ?? null}
          />
        ));
      })}
    </div>
  );
}

const decibels = (d: number | null) => (d === null ? 'exactly' : `to ${d.toFixed(0).replace('-', '−')} dB`);

/** What is written of the families of an output, in words. */
function addsUp({ group, class: pathClass, bytes: size }: Proof): string {
  const told = [['light groups', group] as const, ['path classes', pathClass] as const].flatMap(([words, t]) =>
    t ? [`${words} ${t.addsUp ? 'add up' : 'do NOT add up'} ${decibels(t.decibels)}`] : [],
  );
  return [...told, `${bytes(size)} packed`].join(' · ');
}

function OutputSheet({ output, layers, row }: { output: Output; layers: string[]; row: RunFrame | null }) {
  const isDone = row?.state === 'done';
  const query = cutQuery(output, layers).toString();
  const { data } = useQuery({
    queryKey: ['proof of run', row?.id, query],
    queryFn: () => api.proof(row!.id, query),
    enabled: isDone && layers.length > 0,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <section aria-label={output.name} className="pb-1.5">
      <p className="sticky top-0 bg-ground py-0.5">
        <span className="font-semibold">{output.name}</span>{' '}
        <span className="num text-[11px] text-soft">
          {data ? addsUp(data) : isDone ? 'is packed and read back' : 'waits'}
        </span>
      </p>
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(104px,1fr))] gap-1.5">
        {layers.map((name) => (
          <li key={name}>
            <span className="flex h-[58px] items-center justify-center overflow-hidden bg-pit text-[11px] text-dim">
              {isDone && stillKind(name) !== null ? (
                // biome-ignore lint/performance/noImgElement: a small PNG of our own server needs no optimiser
                <img
                  src={`/api/trials/${row.id}/layer.png?${cutQuery(output, [name])}`}
                  alt=""
                  loading="lazy"
                  className="h-full w-full object-contain"
                />
              ) : (
                <Tip text="Data beyond 0 to 1, which no screen shows as it is: look at it in Split.">
                  <span>data</span>
                </Tip>
              )}
            </span>
            <span className="block truncate text-[11px]">{layerInfo(name).words}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
