'use client';

import type { Operation, Path } from '@/core/comp';
import { Tip } from '../../parts/controls';
import { StackField, StackNumber } from './field';
import { type NumberOf, OPERATIONS } from './operation-fields';
import { OPERATION_NAMES } from './words';

export const OPACITY: NumberOf = {
  kind: 'number',
  at: ['opacity'],
  label: 'opacity',
  unit: '%',
  step: 1,
  least: 0,
  most: 100,
  per: 0.01,
};

/** An operation as a sentence, with what can be set in it. */
export function OperationSentence({ operation, base, frame }: { operation: Operation; base: Path; frame: number }) {
  const { sentence, tip } = OPERATIONS[operation.does];
  const name = OPERATION_NAMES[operation.does];
  return (
    <>
      {sentence.map((part, i) =>
        typeof part === 'string' ? (
          // Punctuation stands at what is before it.
          <Tip key={part} text={tip} side="left">
            <span className={i > 0 && part.startsWith(',') ? '-ml-1' : ''}>{part}</span>
          </Tip>
        ) : (
          <StackField key={part.at.join('.')} base={base} settings={operation} frame={frame} of={part} name={name} />
        ),
      )}
      {operation.does === 'table' && <span className="text-ink">{operation.table}</span>}
      {operation.does === 'curves' && <span className="text-dim">{curveWords(operation)}</span>}
    </>
  );
}

function curveWords(o: Extract<Operation, { does: 'curves' }>): string {
  const bent = (['all', 'red', 'green', 'blue'] as const).filter((c) => o[c].length > 0);
  return bent.length === 0 ? 'straight' : bent.join(', ');
}

/** At which share an entry takes effect. */
export function Opacity({ path, value, frame, name }: { path: Path; value: number; frame: number; name: string }) {
  return (
    <span className="whitespace-nowrap text-soft">
      at <StackNumber path={[...path, 'opacity']} value={value} frame={frame} of={OPACITY} name={name} /> %
    </span>
  );
}
