/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen } from '@testing-library/react';
import { parseRecipe } from '@/core/recipe';
import { emptyShot } from '@/core/scene';
import { DRAWER_HEIGHT, LOGBOOK, useDesk } from '../state/desk-store';
import { useRecipe } from '../state/recipe-store';
import { useScene } from '../state/scene-store';
import { completePage, shown } from '../testing';
import { Drawer } from './drawer';

beforeAll(() => {
  completePage();
  Object.assign(window, { innerHeight: 800 });
  useScene.getState().load(emptyShot('rock'));
  useRecipe.getState().load(parseRecipe({}), 1);
});
beforeEach(() => act(() => useDesk.getState().set({ view: 'tune', face: LOGBOOK, drawerHeight: DRAWER_HEIGHT })));

const edge = () => screen.getByRole('separator', { name: 'height of the drawer' });
const height = () => useDesk.getState().drawerHeight;

/** Drags the edge from its place by so many pixels downwards. */
function drag(by: number): void {
  fireEvent(edge(), new MouseEvent('pointerdown', { bubbles: true, clientY: 500, buttons: 1 }));
  fireEvent(edge(), new MouseEvent('pointermove', { bubbles: true, clientY: 500 + by, buttons: 1 }));
  fireEvent(edge(), new MouseEvent('pointerup', { bubbles: true, clientY: 500 + by }));
}

test('is as high as its edge was dragged, and leaves the picture room', () => {
  shown(<Drawer />);
  drag(-80);
  expect(height()).toBe(DRAWER_HEIGHT + 80);
  drag(30);
  expect(height()).toBe(DRAWER_HEIGHT + 50);
  drag(-2000);
  const most = height();
  expect(most).toBeLessThan(800 - 200);
  expect(most).toBeGreaterThan(DRAWER_HEIGHT + 50);
  drag(2000);
  expect(height()).toBeGreaterThan(100);
  expect(height()).toBeLessThan(DRAWER_HEIGHT);
});

test('gets its first height back by a double click, and moves by arrow keys', () => {
  shown(<Drawer />);
  fireEvent.keyDown(edge(), { key: 'ArrowUp' });
  const higher = height();
  expect(higher).toBeGreaterThan(DRAWER_HEIGHT);
  fireEvent.keyDown(edge(), { key: 'ArrowDown' });
  expect(height()).toBe(DRAWER_HEIGHT);
  fireEvent.keyDown(edge(), { key: 'ArrowUp' });
  fireEvent.doubleClick(edge());
  expect(height()).toBe(DRAWER_HEIGHT);
});

test('a pointer that passes without its button changes nothing', () => {
  shown(<Drawer />);
  fireEvent(edge(), new MouseEvent('pointermove', { bubbles: true, clientY: 100, buttons: 0 }));
  expect(height()).toBe(DRAWER_HEIGHT);
});

test('has the logbook in every view, and the faces of the view that is shown', () => {
  shown(<Drawer />);
  const faces = () => screen.getAllByRole('tab').map((t) => t.textContent);
  expect(faces()).toEqual(['Logbook', 'Sources and cures', 'Ray depth', 'A and B', 'Denoise', 'Budget']);
  act(() => useDesk.getState().set({ face: 'budget' }));
  expect(screen.getByRole('tab', { selected: true }).textContent).toBe('Budget');
  // What the next view has no face for falls back to the logbook, and is there again on the way back.
  act(() => useDesk.getState().set({ view: 'split' }));
  expect(screen.getByRole('tab', { selected: true }).textContent).toBe('Logbook');
  act(() => useDesk.getState().set({ view: 'tune' }));
  expect(screen.getByRole('tab', { selected: true }).textContent).toBe('Budget');
});

test('the map of noise and time stands beside the logbook alone', () => {
  shown(<Drawer />);
  expect(screen.getByRole('region', { name: 'charts' })).toBeTruthy();
  act(() => useDesk.getState().set({ face: 'budget' }));
  expect(screen.queryByRole('region', { name: 'charts' })).toBeNull();
});
