'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Proof } from '@/contract/proof';
import { layerInfo } from '@/core/film';
import type { Mask } from '@/core/outputs';
import { bytes, packingWords, share } from '@/core/words';
import { Tip, Word } from '../../parts/controls';
import { api } from '../../state/api';
import { saveDraftNow } from '../../state/draft';
import { useShot } from '../../state/shot-store';

/** What the cheapest repair changes of an output, and how it is said. */
const REPAIRS = {
  packing: { key: 'compression', value: 'zip', words: 'pack as ZIP' },
  half: { key: 'depth', value: 'float', words: 'write floats' },
} as const;
type Repair = (typeof REPAIRS)[keyof typeof REPAIRS];

const causeWords = (cause: NonNullable<Proof['cause']>, packing: string) =>
  cause === 'packing'
    ? `${packingWords(packing)} takes too much of them: as ZIP they add up`
    : 'half rounds them: as float they add up';

const decibels = (d: number | null) => (d === null ? 'exact' : `${d.toFixed(0)} dB`.replace('-', '−'));

type Tallied = NonNullable<Proof['group']>;

function failing(words: string, { decibels: d, failing: f }: Tallied): string {
  const which = f!.bright > 0.7 ? ', mostly bright' : f!.bright < 0.3 ? ', mostly dark' : '';
  return `${words} do not add up in ${share(f!.share)} of the pixels${which} (${decibels(d)})`;
}

/** Whether the families add up, those that fail alike said at once. */
function tallied(group: Tallied | null, pathClass: Tallied | null): string[] {
  const all = [
    { words: 'groups', t: group },
    { words: 'classes', t: pathClass },
  ].flatMap(({ words, t }) => (t ? [{ words, t }] : []));
  const worst = all.filter((f) => f.t.failing).sort((a, b) => b.t.failing!.share - a.t.failing!.share);
  const right = all.filter((f) => !f.t.failing).map((f) => `${f.words} add up (${decibels(f.t.decibels)})`);
  return worst.length === 0 ? right : [...right, failing(worst.map((f) => f.words).join(' and '), worst[0].t)];
}

/** What is said of an output that was packed and read back. */
function words({ parts, group, class: pathClass, cause }: Proof, packing: string): string[] {
  const worst = parts.reduce(
    (w, p) => ((p.decibels ?? Number.NEGATIVE_INFINITY) > (w?.decibels ?? Number.NEGATIVE_INFINITY) ? p : w),
    null as Proof['parts'][number] | null,
  );
  const floats = parts.filter((p) => p.keptFloat).map((p) => layerInfo(p.name).words);
  return [
    ...tallied(group, pathClass),
    cause && causeWords(cause, packing),
    worst
      ? `most is lost in ${worst.name === 'rgba' ? 'beauty' : layerInfo(worst.name).words}, ${decibels(worst.decibels)}`
      : 'every bit is the same',
    floats.length > 0 ? `kept whole as floats, since half ends at 65504: ${floats.join(', ')}` : null,
  ].filter((w) => w !== null);
}

/** Packs the chosen layers as they would be written, reads them back, and says what that took from them. */
export function ProofLine({
  trial,
  query,
  masks,
  onRepair,
}: {
  trial: string;
  query: URLSearchParams;
  masks: readonly Mask[];
  onRepair: (repair: Repair) => void;
}) {
  const [asked, setAsked] = useState<string | null>(null);
  const shot = useShot((s) => s.id);
  const key = JSON.stringify([trial, query.toString(), masks]);
  // What was repaired is checked at once.
  const [repairing, setRepairing] = useState<string | null>(null);
  if (repairing !== null && repairing !== key) {
    setRepairing(null);
    setAsked(key);
  }
  const { data, error, isFetching } = useQuery({
    queryKey: ['proof', key],
    queryFn: async () => {
      // The server makes masks by the draft that it has.
      await saveDraftNow(shot);
      return api.proof(trial, query.toString());
    },
    enabled: asked === key,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const proof = asked === key ? data : undefined;
  return (
    <div className="mb-1.5 flex items-start gap-2 text-[11.5px]" data-testid="proof">
      {proof ? (
        <span className="num shrink-0 py-0.5">{bytes(proof.bytes)} packed</span>
      ) : (
        <Tip
          side="left"
          text="Packs what is chosen as it would be written, reads it back, and holds it against what was rendered: what rounding took, and whether the parts still add up."
        >
          <Word className="-ml-1.5 shrink-0" disabled={isFetching} onClick={() => setAsked(key)}>
            {isFetching ? 'checking …' : 'check as written'}
          </Word>
        </Tip>
      )}
      {proof && (
        <span className="num py-0.5 text-soft">
          {words(proof, query.get('compression') ?? '').join(' · ')}
          {proof.cause && (
            <Word
              className="text-[11px] underline"
              onClick={() => {
                setRepairing(key);
                onRepair(REPAIRS[proof.cause!]);
              }}
            >
              {REPAIRS[proof.cause].words}
            </Word>
          )}
        </span>
      )}
      {asked === key && error && (
        <span className="py-0.5" role="alert">
          {error.message}
        </span>
      )}
    </div>
  );
}
