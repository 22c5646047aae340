'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Proof } from '@/contract/proof';
import { layerInfo } from '@/core/film';
import type { Mask } from '@/core/outputs';
import { Tip, Word } from '../../parts/controls';
import { api } from '../../state/api';
import { saveDraftNow } from '../../state/draft';
import { bytes, packingWords, share } from '../../state/format';
import { useShot } from '../../state/shot-store';

const causeWords = (cause: NonNullable<Proof['cause']>, packing: string) =>
  cause === 'packing'
    ? `${packingWords(packing)} takes too much of them: packed as ZIP they add up`
    : 'half rounds them: as float they add up';

const decibels = (d: number | null) => (d === null ? 'exact' : `${d.toFixed(0)} dB`.replace('-', '−'));

function tallied(words: string, t: Proof['group']): string | null {
  if (!t?.failing) return t && `${words} ${decibels(t.decibels)}, add up`;
  const { share: of, bright } = t.failing;
  const which = bright > 0.7 ? ', mostly bright ones' : bright < 0.3 ? ', mostly dark ones' : '';
  return `${words} ${decibels(t.decibels)}, do not add up in ${share(of)} of the pixels${which}`;
}

/** What is said of an output that was packed and read back. */
function words({ parts, group, class: pathClass, cause }: Proof, packing: string): string[] {
  const worst = parts.reduce(
    (w, p) => ((p.decibels ?? Number.NEGATIVE_INFINITY) > (w?.decibels ?? Number.NEGATIVE_INFINITY) ? p : w),
    null as Proof['parts'][number] | null,
  );
  const floats = parts.filter((p) => p.keptFloat).map((p) => layerInfo(p.name).words);
  return [
    tallied('groups', group),
    tallied('classes', pathClass),
    cause && causeWords(cause, packing),
    worst
      ? `most is lost in ${worst.name === 'rgba' ? 'beauty' : layerInfo(worst.name).words}, ${decibels(worst.decibels)}`
      : 'every bit is the same',
    floats.length > 0 ? `kept whole as floats, since half ends at 65504: ${floats.join(', ')}` : null,
  ].filter((w) => w !== null);
}

/** Packs the chosen layers as they would be written, reads them back, and says what that took from them. */
export function ProofLine({ trial, query, masks }: { trial: string; query: URLSearchParams; masks: readonly Mask[] }) {
  const [asked, setAsked] = useState<string | null>(null);
  const shot = useShot((s) => s.id);
  const key = JSON.stringify([trial, query.toString(), masks]);
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
        <span className="num py-0.5 text-soft">{words(proof, query.get('compression') ?? '').join(' · ')}</span>
      )}
      {asked === key && error && (
        <span className="py-0.5" role="alert">
          {error.message}
        </span>
      )}
    </div>
  );
}
