/** @jest-environment <rootDir>/jest.page.cjs */
import { act, screen, waitFor } from '@testing-library/react';
import { emptyShot } from '@/core/scene';
import { completePage, PlayedWorker, passes, shown } from '../testing';
import { useAsk } from './ask';
import { useLive } from './live-store';

beforeAll(completePage);
beforeEach(() => act(() => useLive.setState({ status: {} as never })));

type Options = Parameters<typeof useAsk>[2];
const document = emptyShot('rock');

/** Asks for the layer's histogram, and shows what comes of it. */
function Asking({ layer, ...options }: { layer: string | null } & Options) {
  const asked = layer === null ? null : { slot: 'A' as const, layer, range: null };
  const { answer, fault, asking, step } = useAsk('histogram', asked as never, options);
  return (
    <p data-testid="told">{JSON.stringify({ answer, fault, asking, step: step && `${step.done} of ${step.of}` })}</p>
  );
}
const told = () => JSON.parse(screen.getByTestId('told').textContent!);
const layers = (worker: PlayedWorker) => worker.asked.map((m) => (m.asked as unknown as { layer: string }).layer);

test('a question is asked once, and its answer shown', async () => {
  const worker = new PlayedWorker();
  shown(<Asking layer="beauty" />, worker.client);
  await passes();
  expect(told()).toMatchObject({ answer: null, asking: true });
  worker.says({ type: 'step', id: worker.asked[0].id, done: 1, of: 3, words: 'sweeps' });
  expect(told().step).toBe('1 of 3');
  worker.says({ type: 'answered', id: worker.asked[0].id, answer: 7 });
  await waitFor(() => expect(told()).toEqual({ answer: 7, fault: null, asking: false, step: null }));
  expect(layers(worker)).toEqual(['beauty']);
});

test('nothing is asked while there is nothing to ask, or no worker is ready', async () => {
  const worker = new PlayedWorker();
  const { rerender } = shown(<Asking layer={null} />, worker.client);
  await passes();
  act(() => useLive.setState({ status: null }));
  rerender(<Asking layer="depth" />);
  await passes();
  expect(worker.asked).toEqual([]);
  act(() => useLive.setState({ status: {} as never }));
  await passes();
  expect(layers(worker)).toEqual(['depth']);
});

test('what changes quickly is asked for once it rests, as it is then', async () => {
  const worker = new PlayedWorker();
  const { rerender } = shown(<Asking layer="a" afterMs={600} />, worker.client);
  for (const layer of ['b', 'c', 'd']) {
    await passes(10);
    rerender(<Asking layer={layer} afterMs={600} />);
  }
  expect(worker.asked).toEqual([]);
  await waitFor(() => expect(layers(worker)).toEqual(['d']), { timeout: 5000 });
});

test('a question that is no longer asked is given up; its late answer is nobody’s', async () => {
  const worker = new PlayedWorker();
  const { rerender } = shown(<Asking layer="a" />, worker.client);
  await waitFor(() => expect(worker.asked).toHaveLength(1));
  const [{ id }] = worker.asked;
  rerender(<Asking layer="b" />);
  await passes();
  expect(worker.sent).toContainEqual({ type: 'cancel', id });
  worker.says({ type: 'answered', id, answer: 'late' });
  worker.says({ type: 'answered', id: worker.asked[1].id, answer: 'new' });
  await waitFor(() => expect(told().answer).toBe('new'));
});

test('who leaves gives up what was asked', async () => {
  const worker = new PlayedWorker();
  const { unmount } = shown(<Asking layer="a" />, worker.client);
  await passes();
  unmount();
  expect(worker.sent.at(-1)).toEqual({ type: 'cancel', id: worker.asked[0].id });
});

test('the last answer stays until the next is there, where that is wanted', async () => {
  const worker = new PlayedWorker();
  const { rerender } = shown(<Asking layer="a" keep />, worker.client);
  await passes();
  worker.says({ type: 'answered', id: worker.asked[0].id, answer: 1 });
  await waitFor(() => expect(told().answer).toBe(1));
  rerender(<Asking layer="b" keep />);
  await passes();
  expect(told()).toMatchObject({ answer: 1, asking: true });
  rerender(<Asking layer="c" />);
  await passes();
  expect(told().answer).toBeNull();
});

test('a refusal is shown in its words, and not asked again by itself', async () => {
  const worker = new PlayedWorker();
  shown(<Asking layer="a" />, worker.client);
  await passes();
  worker.says({ type: 'refused', id: worker.asked[0].id, message: 'the film lacks a' });
  await waitFor(() => expect(told()).toMatchObject({ answer: null, fault: 'the film lacks a', asking: false }));
  await passes(50);
  expect(worker.asked).toHaveLength(1);
});

test('an answer of nothing is asked for again after a while, until there is one', async () => {
  const worker = new PlayedWorker();
  shown(<Asking layer="a" againMs={20} />, worker.client);
  await passes();
  worker.says({ type: 'answered', id: worker.asked[0].id, answer: null });
  await waitFor(() => expect(worker.asked.length).toBeGreaterThan(1));
  const asked = worker.asked.length;
  worker.says({ type: 'answered', id: worker.asked.at(-1)!.id, answer: 3 });
  await waitFor(() => expect(told().answer).toBe(3));
  await passes(60);
  expect(worker.asked).toHaveLength(asked);
});

test('what it depends on beside what is asked makes it another question; by that alone where that is wanted', async () => {
  const worker = new PlayedWorker();
  const { rerender } = shown(<Asking layer="a" of={{ document, samples: 4 }} />, worker.client);
  await passes();
  rerender(<Asking layer="a" of={{ document, samples: 4 }} />);
  await passes();
  expect(worker.asked).toHaveLength(1);
  rerender(<Asking layer="a" of={{ document: { ...document }, samples: 4 }} />);
  await passes();
  expect(worker.asked).toHaveLength(2);
  rerender(<Asking layer="b" of={8} byOf />);
  await passes();
  rerender(<Asking layer="c" of={8} byOf />);
  await passes();
  expect(layers(worker)).toEqual(['a', 'a', 'b']);
});
