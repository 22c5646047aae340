/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen } from '@testing-library/react';
import { useState } from 'react';
import { forget, note, useHistory } from '../state/history';
import { completePage, shown } from '../testing';
import { Dialog } from './dialog';
import { Menu, MenuItem } from './menu';
import { NameDialog } from './name-dialog';
import { Popover } from './popover';
import { Tabs } from './tabs';
import { UndoButtons } from './undo-buttons';

beforeAll(completePage);
beforeEach(() => act(forget));

function Parts() {
  const [part, setPart] = useState('lights');
  const tabs = ['lights', 'sky', 'fog', 'camera'].map((name) => ({
    name,
    label: name,
    tip: `the ${name}`,
    disabled: name === 'fog',
  }));
  return (
    <Tabs label="parts" tabs={tabs} value={part} onChange={setPart}>
      <p>about {part}</p>
    </Tabs>
  );
}

test('tabs are one stop of the Tab key, gone through by arrow keys, past what cannot be chosen', async () => {
  shown(<Parts />);
  const tab = (name: string) => screen.getByRole('tab', { name });
  act(() => tab('lights').focus());
  fireEvent.keyDown(tab('lights'), { key: 'ArrowRight' });
  await act(() => new Promise((done) => setTimeout(done)));
  expect(document.activeElement).toBe(tab('sky'));
  expect(screen.getByRole('tabpanel').textContent).toBe('about sky');
  fireEvent.keyDown(tab('sky'), { key: 'ArrowRight' });
  await act(() => new Promise((done) => setTimeout(done)));
  expect(screen.getByRole('tabpanel').textContent).toBe('about camera');
  fireEvent.keyDown(tab('camera'), { key: 'Home' });
  await act(() => new Promise((done) => setTimeout(done)));
  expect(screen.getByRole('tab', { selected: true }).textContent).toBe('lights');
  expect(screen.getAllByRole('tab').filter((t) => t.tabIndex === 0)).toHaveLength(1);
});

test('a dialog has a name, keeps its keys to itself, and is left by Escape', () => {
  const outside: string[] = [];
  let closed = 0;
  shown(
    // biome-ignore lint/a11y/noStaticElementInteractions: stands for the page that listens to keys
    <div onKeyDown={(e) => outside.push(e.key)}>
      <Dialog title="Keep the rig" place="question" onClose={() => closed++}>
        <button type="button">Keep</button>
      </Dialog>
    </div>,
  );
  const dialog = screen.getByRole('dialog', { name: 'Keep the rig' });
  fireEvent.keyDown(dialog, { key: 't' });
  expect(outside).toEqual([]);
  fireEvent.keyDown(dialog, { key: 'Escape' });
  expect(closed).toBe(1);
});

test('a name is asked for, trimmed, and never empty', () => {
  const names: string[] = [];
  shown(
    <NameDialog
      title="Keep this recipe"
      label="name"
      action="Keep"
      initial="Quiet"
      most={40}
      onName={(n) => names.push(n)}
      onClose={() => {}}
    />,
  );
  const field = screen.getByRole('textbox', { name: 'name' });
  const keep = () => fireEvent.click(screen.getByRole('button', { name: 'Keep' }));
  fireEvent.change(field, { target: { value: '   ' } });
  keep();
  expect(names).toEqual([]);
  fireEvent.change(field, { target: { value: '  Night watch ' } });
  keep();
  expect(names).toEqual(['Night watch']);
});

test('a popover opens by its button and tells when it closes', () => {
  const opened: boolean[] = [];
  shown(
    <Popover trigger={<button type="button">About</button>} onOpenChange={(o) => opened.push(o)}>
      <p>a note</p>
    </Popover>,
  );
  fireEvent.click(screen.getByRole('button', { name: 'About' }));
  expect(screen.getByText('a note')).toBeTruthy();
  fireEvent.keyDown(document.activeElement!, { key: 'Escape' });
  expect([opened, screen.queryByText('a note')]).toEqual([[true, false], null]);
});

test('a menu keeps its keys to itself: Escape closes it, and is heard nowhere else', () => {
  const heard: string[] = [];
  const hear = (e: KeyboardEvent) => void heard.push(e.key);
  document.addEventListener('keydown', hear);
  shown(
    <Menu trigger={<button type="button">More</button>}>
      <MenuItem>rename</MenuItem>
    </Menu>,
  );
  fireEvent.keyDown(screen.getByRole('button', { name: 'More' }), { key: 'Enter' });
  heard.length = 0;
  const item = screen.getByRole('menuitem', { name: 'rename' });
  for (const key of ['l', 'Escape']) fireEvent.keyDown(item, { key });
  document.removeEventListener('keydown', hear);
  expect([heard, screen.queryByRole('menuitem')]).toEqual([[], null]);
});

describe('what was changed', () => {
  const put: string[] = [];
  const subject = { put: (value: string) => void put.push(value) };
  const change = (n: number) => act(() => note(subject, `change ${n}`, `before ${n}`, `after ${n}`));
  const button = (name: string) => screen.getByRole('button', { name }) as HTMLButtonElement;

  beforeEach(() => put.splice(0));

  test('is nothing at first: no button can be pressed', () => {
    shown(<UndoButtons />);
    expect(['undo', 'redo', 'what was changed'].map((name) => button(name).disabled)).toEqual([true, true, true]);
  });

  test('is undone and made again by its buttons', () => {
    shown(<UndoButtons />);
    change(1);
    change(2);
    fireEvent.click(button('undo'));
    fireEvent.click(button('redo'));
    expect(put).toEqual(['before 2', 'after 2']);
    expect(button('redo').disabled).toBe(true);
  });

  test('stands in the menu in words, newest first, and goes back to where one chooses', () => {
    shown(<UndoButtons />);
    for (let n = 1; n <= 12; n++) change(n);
    const open = () => fireEvent.keyDown(button('what was changed'), { key: 'Enter' });
    open();
    const items = screen.getAllByRole('menuitem').map((m) => m.textContent);
    expect(items).toEqual([12, 11, 10, 9, 8, 7, 6, 5, 4, 3].map((n) => `change ${n}`));
    fireEvent.click(screen.getByRole('menuitem', { name: 'change 10' }));
    expect(put).toEqual(['before 12', 'before 11', 'before 10']);
    open();
    fireEvent.click(screen.getByRole('menuitem', { name: 'change 11' }));
    expect(put.slice(3)).toEqual(['after 10', 'after 11']);
    expect(useHistory.getState().past.at(-1)!.words).toBe('change 11');
  });
});
