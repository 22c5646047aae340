/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, within } from '@testing-library/react';
import type { Proof } from '@/contract/proof';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { useDesk } from '../../state/desk-store';
import { pickedOutput, useOutputs } from '../../state/outputs-store';
import { useShot } from '../../state/shot-store';
import { SHOT } from '../../state/testing';
import { completePage, shown } from '../../testing';
import { LayerFacts, NoisyParts } from './layer-facts';
import { PackingMenu } from './packing-menu';
import { ProofLine } from './proof';

beforeAll(completePage);
beforeEach(() => {
  useShot.setState({ id: SHOT, name: 'rock', revision: 1, connected: true, baseline: null });
  useOutputs.getState().load(FIRST_OUTPUTS);
});
const output = () => pickedOutput(useOutputs.getState())!;

test('a packing is chosen by what it does, lines or tiles beside it, and whether it loses is said', () => {
  const changed: unknown[] = [];
  const menu = (o = output()) => <PackingMenu output={o} edit={(key, value) => changed.push([key, value])} />;
  const { rerender } = shown(menu());
  expect(screen.getByText('the same bits come back')).toBeTruthy();
  fireEvent.keyDown(screen.getByRole('button', { name: 'packing: ZIP' }), { key: 'Enter' });
  expect(screen.getAllByRole('menuitem')).toHaveLength(10);
  fireEvent.click(screen.getByRole('menuitem', { name: /^DWAB/ }));
  fireEvent.keyDown(screen.getByRole('button', { name: 'pieces: lines' }), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitem', { name: 'tiles 64 px' }));
  expect(changed).toEqual([
    ['compression', 'dwab'],
    ['tilePx', 64],
  ]);
  rerender(menu({ ...output(), compression: 'dwab', tilePx: 64 }));
  expect(screen.getByText('loses some of the light')).toBeTruthy();
  expect(screen.getByRole('button', { name: 'pieces: tiles 64 px' })).toBeTruthy();
});

const fails = { parts: 5, maxError: 0.3, decibels: -33, addsUp: false, failing: { share: 0.96, bright: 0.1 } };
const PROOF: Proof = {
  bytes: 2e6,
  parts: [{ name: 'group.lamp', type: 'half', bytes: 2e6, decibels: -40, keptFloat: false }],
  group: fails,
  class: { ...fails, failing: { share: 0.5, bright: 0.5 } },
  cause: 'packing',
};

test('what does not add up is said once with its cause, and is repaired and checked by one click', async () => {
  const asked: string[] = [];
  const answers = [PROOF, { ...PROOF, group: { ...fails, addsUp: true, failing: null }, class: null, cause: null }];
  const said = (of: unknown) => Promise.resolve({ ok: true, status: 200, json: async () => of });
  Object.assign(globalThis, {
    fetch: (path: string) => {
      if (!path.includes('/proof')) return said({});
      asked.push(path);
      return said({ proof: answers[asked.length - 1] });
    },
  });
  let packing = 'dwaa';
  const repaired: unknown[] = [];
  const line = () => (
    <ProofLine
      trial="t"
      query={new URLSearchParams({ compression: packing })}
      masks={[]}
      onRepair={(r) => {
        repaired.push(r.value);
        packing = r.value;
      }}
    />
  );
  const { rerender } = shown(line());
  fireEvent.click(screen.getByRole('button', { name: 'check as written' }));
  const told = await screen.findByText(/do not add up/);
  expect(told.textContent).toContain('groups and classes do not add up in 96% of the pixels, mostly dark (−33 dB)');
  expect(told.textContent).toContain('DWAA takes too much of them: as ZIP they add up');
  fireEvent.click(screen.getByRole('button', { name: 'pack as ZIP' }));
  expect(repaired).toEqual(['zip']);
  await act(async () => rerender(line()));
  expect((await screen.findByText(/groups add up/)).textContent).not.toContain('takes too much');
  expect(asked[1]).toContain('compression=zip');
});

test('written parts noisier than the target are named in their worst mood, with the way to the cure', () => {
  const noises = {
    'group.lamp': { rms: 1.5, worst: { mood: 'storm', rms: 3.25 } },
    'group.sky': { rms: 2.5, worst: { mood: 'storm', rms: 1 } },
    'group.key': { rms: 0.5, worst: null },
    'group.door': { rms: 9, worst: null },
  };
  useDesk.getState().set({ view: 'split', target: 2, targetMood: null });
  shown(<NoisyParts written={['group.lamp', 'group.sky', 'group.key', 'class.caustic']} noises={noises} />);
  const told = screen.getByTestId('noisy-parts');
  expect(told.textContent).toContain('Above 2.00 %: lamp 3.25 % in storm, sky 2.50 %');
  fireEvent.click(within(told).getByRole('button', { name: 'find its cure' }));
  expect(useDesk.getState()).toMatchObject({ view: 'tune', overlay: 'noise', noiseOf: 'lamp', targetMood: '' });
});

test('of the layer that is looked at noise and size are told', () => {
  const trial = { spec: { region: { width: 1000, height: 500 } } } as never;
  const noise = { rms: 0.84, worst: { mood: 'storm', rms: 2.1 } };
  const { rerender } = shown(<LayerFacts name="group.lamp" trial={trial} output={output()} noise={noise} />);
  const facts = () => screen.getByTestId('layer-facts').textContent;
  expect(facts()).toBe('noise 0.84 % · 2.10 % in storm · 3 MB to 6 MB before packing');
  rerender(<LayerFacts name="depth" trial={trial} output={{ ...output(), depth: 'half' }} noise={undefined} />);
  expect(facts()).toBe('2 MB before packing');
});
