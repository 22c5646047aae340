import { FIRST_OUTPUTS, parseOutputs } from '@/core/outputs';
import { forget, undo, useHistory } from './history';
import { pickedOutput, useOutputs } from './outputs-store';

const store = () => useOutputs.getState();
const two = parseOutputs({
  list: [
    { id: 'a', name: 'comp', layers: ['beauty'] },
    { id: 'b', name: 'masks', layers: ['coverage'] },
  ],
});

beforeEach(() => {
  forget();
  useOutputs.setState({ picked: null });
  store().load(two);
});

test('an output is edited, marked unsaved, and the edit can be undone', () => {
  expect(store().edit('float', 'b', (o) => ({ ...o, depth: 'float' }))).toBeNull();
  expect(store().outputs!.list.map((o) => o.depth)).toEqual(['auto', 'float']);
  expect(store().unsaved).toBe(true);
  undo();
  expect(store().outputs).toEqual(two);
});

test('what is refused changes nothing and says why', () => {
  expect(store().edit('twins', 'b', (o) => ({ ...o, name: 'comp' }))).toBe('comp is there twice');
  expect(store().edit('name', 'b', (o) => ({ ...o, name: 'a/b' }))).toContain('letters');
  expect(store().outputs).toBe(two);
  expect(store().unsaved).toBe(false);
  expect(useHistory.getState().past).toEqual([]);
});

test('what stays the same is no edit; what came back from the server is saved unless it was edited meanwhile', () => {
  expect(store().edit('same', 'a', (o) => ({ ...o }))).toBeNull();
  expect(store().unsaved).toBe(false);
  store().edit('half', 'a', (o) => ({ ...o, depth: 'half' }));
  const sent = store().outputs!;
  store().edit('float', 'a', (o) => ({ ...o, depth: 'float' }));
  store().saved(sent);
  expect(store().unsaved).toBe(true);
  store().saved(store().outputs!);
  expect(store().unsaved).toBe(false);
});

test('the first is edited until another is picked, and again when that one has gone', () => {
  expect(pickedOutput(store())!.name).toBe('comp');
  useOutputs.setState({ picked: 'b' });
  expect(pickedOutput(store())!.name).toBe('masks');
  store().replace('removed', { ...two, list: [two.list[0]] });
  expect(pickedOutput(store())!.name).toBe('comp');
  store().replace('another', FIRST_OUTPUTS, FIRST_OUTPUTS.list[0].id);
  expect(pickedOutput(store())!.name).toBe('parts');
  store().replace('none', { schema: 1, list: [], masks: [] });
  expect(pickedOutput(store())).toBeNull();
});
