'use client';

import { Check, Octagon, TriangleAlert } from 'lucide-react';
import type { ReactNode } from 'react';
import type { Room } from '@/contract/run';
import type { Finding } from '@/core/runs';
import { bytes, counted } from '@/core/words';
import { Word } from '../../parts/controls';
import { repairAll } from './checked';

interface Props {
  findings: readonly Finding[];
  room: Room | null;
  /** Bytes that its files take at most, and its films at once. */
  takes: { files: number; films: number };
  /** Why the server would not say. */
  refused: string | null;
  overwrites: boolean;
  onOverwrite: (overwrites: boolean) => void;
}

/** What a run would deliver by mistake, each with what puts it right. */
export function CheckList({ findings, room, takes, refused, overwrites, onOverwrite }: Props) {
  const mendable = findings.filter((f) => f.repair);
  const isFull = room !== null && takes.films > room.storeBytes;
  const isTight = room !== null && room.freeBytes !== null && takes.files > room.freeBytes;
  const isClean =
    findings.length === 0 &&
    !isFull &&
    !isTight &&
    room !== null &&
    room.fault === null &&
    room.missing.length === 0 &&
    room.taken.length === 0;
  return (
    <section aria-label="check" className="mt-1 border-t border-line pt-1.5" data-testid="check">
      <div className="flex h-[25px] items-center px-3.5">
        <span className="flex-1 text-dim">Before it starts</span>
        {mendable.length > 1 && (
          <Word className="underline" onClick={() => repairAll(mendable)}>
            put all {mendable.length} right
          </Word>
        )}
      </div>
      <ul>
        {isClean && (
          <Line mark={<Check size={13} aria-hidden="true" />}>Nothing is left over, and no file is in the way.</Line>
        )}
        {findings.map((f) => (
          <Line key={f.code + f.words} mark={<Mark stops={f.stops} />} code={f.code}>
            {f.words}
            {f.repair && (
              <Word className="!py-0 underline" onClick={() => repairAll([f])}>
                {f.repair.words}
              </Word>
            )}
          </Line>
        ))}
        {refused && <Line mark={<Mark stops />}>{refused}</Line>}
        {room?.fault && <Line mark={<Mark stops />}>{room.fault}</Line>}
        {room && isFull && (
          <Line mark={<Mark stops />} code="store">
            films take {bytes(takes.films)} at once, and {bytes(room.storeBytes)} are left for films: remove trials, or
            keep the files alone
          </Line>
        )}
        {room && room.freeBytes !== null && isTight && (
          <Line mark={<Mark stops={false} />} code="disk">
            files take {bytes(takes.files)} at most before packing, and {bytes(room.freeBytes)} are free there
          </Line>
        )}
        {room && room.missing.length > 0 && (
          <Line mark={<Mark stops />}>
            {counted(room.missing.length, 'content')} of the scene {room.missing.length === 1 ? 'is' : 'are'} not there:{' '}
            {room.missing.slice(0, 3).join(', ')}
          </Line>
        )}
        {room && room.taken.length > 0 && (
          <Line mark={<Mark stops={!overwrites} />} code="taken">
            {counted(room.taken.length, 'file')} of these names {room.taken.length === 1 ? 'is' : 'are'} in the folder:{' '}
            {room.taken[0]}
            <Word className="!py-0 underline" on={overwrites} onClick={() => onOverwrite(!overwrites)}>
              write over {room.taken.length === 1 ? 'it' : 'them'}
            </Word>
          </Line>
        )}
      </ul>
    </section>
  );
}

const Mark = ({ stops }: { stops: boolean }) =>
  stops ? (
    <Octagon size={13} aria-label="stops the run" role="img" fill="currentColor" />
  ) : (
    <TriangleAlert size={13} aria-label="left over" role="img" />
  );

function Line({ mark, code, children }: { mark: ReactNode; code?: string; children: ReactNode }) {
  return (
    <li className="flex gap-2 px-3.5 py-0.5" data-code={code}>
      <span className="pt-[3px] text-soft">{mark}</span>
      <span className="min-w-0 flex-1">{children}</span>
    </li>
  );
}
