/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, within } from '@testing-library/react';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot, lightGroups, sceneSchema } from '@/core/scene';
import { undo, useHistory } from '../../state/history';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useScene } from '../../state/scene-store';
import { useShot } from '../../state/shot-store';
import { SHOT } from '../../state/testing';
import { completePage, shown } from '../../testing';
import { LightLanes } from './light-lanes';
import { SplitPanel } from './split-panel';

beforeAll(completePage);
const names = ['hall', 'stair', 'porch'];
const load = (groups: readonly string[]) =>
  useScene.getState().load(
    sceneSchema.parse({
      ...emptyShot('rock'),
      environment: null,
      groups: undefined,
      lights: groups.map((group, i) => ({
        kind: 'point',
        name: names[i] ?? `lamp ${i}`,
        group,
        power: i + 1,
        position: [0, 1, 0],
      })),
    }),
  );
beforeEach(() => {
  load(['lights', 'lights', 'other']);
  useRecipe.getState().load(parseRecipe({}), 1);
  useShot.setState({ id: SHOT, name: 'rock', revision: 1, connected: true, baseline: null });
  useOutputs
    .getState()
    .load({ ...FIRST_OUTPUTS, list: [{ ...FIRST_OUTPUTS.list[0], layers: ['beauty', 'group.lights'] }] });
});

const groups = () => lightGroups(useScene.getState().document!);
const layers = () => useOutputs.getState().outputs!.list[0].layers;
const lane = (group: string) => within(screen.getByRole('region', { name: `light group ${group}` }));

test('a light group for each source is one step, outputs go on writing the light they wrote, and undo takes both back', () => {
  shown(<LightLanes />);
  expect(lane('other').getByText('unassigned (other)')).toBeTruthy();
  const steps = useHistory.getState().past.length;
  fireEvent.click(screen.getByRole('button', { name: 'One for each' }));
  expect(groups()).toEqual(['hall', 'stair', 'porch']);
  expect(layers()).toEqual(['beauty', 'group.hall', 'group.stair']);
  expect(useHistory.getState().past).toHaveLength(steps + 1);
  act(() => undo());
  expect(groups()).toEqual(['lights', 'other']);
  expect(layers()).toEqual(['beauty', 'group.lights']);
});

test('a source goes into another group from its menu; several chosen ones go together', () => {
  shown(<LightLanes />);
  fireEvent.click(screen.getByRole('button', { name: 'light hall' }));
  fireEvent.click(screen.getByRole('button', { name: 'light stair' }));
  fireEvent.keyDown(screen.getByRole('button', { name: 'move stair' }), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitem', { name: 'one of its own' }));
  expect(groups()).toEqual(['hall', 'other']);
  expect(lane('hall').getByRole('button', { name: 'light stair' })).toBeTruthy();
  expect(layers()).toEqual(['beauty', 'group.hall']);
});

test('a group is renamed in the scene and in outputs; by the name of another it becomes one with it', () => {
  shown(<LightLanes />);
  const rename = (from: string, to: string) => {
    fireEvent.click(lane(from).getByText(from));
    const field = screen.getByRole('textbox', { name: `name of light group ${from}` });
    fireEvent.change(field, { target: { value: to } });
    fireEvent.keyDown(field, { key: 'Enter' });
  };
  rename('lights', 'Key Light');
  expect(groups()).toEqual(['key_light', 'other']);
  expect(layers()).toEqual(['beauty', 'group.key_light']);
  rename('key_light', 'other');
  expect(groups()).toEqual(['other']);
  expect(layers()).toEqual(['beauty', 'group.other']);
});

test('seventeen light groups are told before anything is rendered', () => {
  load(Array.from({ length: 17 }, (_, i) => `lamp_${i}`));
  shown(<LightLanes />);
  expect(screen.getByTestId('group-count').textContent).toBe('17 of 16');
  expect(screen.getByRole('alert').textContent).toContain('A film keeps 16');
  shown(<SplitPanel />);
  expect(screen.getByTestId('many-groups').textContent).toContain('17 light groups, a film keeps 16');
});
