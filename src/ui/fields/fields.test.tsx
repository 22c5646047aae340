/** @jest-environment <rootDir>/jest.page.cjs */
import { fireEvent, screen } from '@testing-library/react';
import { useState } from 'react';
import { completePage, shown } from '../testing';
import { Choice } from './choice';
import { NamesField } from './names-field';
import { NumberField } from './number-field';
import { TextField } from './text-field';
import { Toggle } from './toggle';
import { WordsField } from './words-field';

beforeAll(completePage);

type More = { step?: number; off?: string; suffix?: string };

/** A number field over a value of its own, which refuses what lies beyond 0 to 100. */
function Held({ first, taken, more }: { first: number | null; taken: (number | null)[]; more: More }) {
  const [value, setValue] = useState(first);
  const take = (next: number | null) => {
    if (next !== null && (next < 0 || next > 100)) return 'must be from 0 to 100';
    taken.push(next);
    setValue(next);
    return null;
  };
  return <NumberField label="Samples" value={value} onChange={take} {...more} />;
}

function numberField(first: number | null, more: More = {}) {
  const taken: (number | null)[] = [];
  shown(<Held first={first} taken={taken} more={more} />);
  const input = screen.getByRole('textbox', { name: 'Samples' }) as HTMLInputElement;
  const types = (text: string, end: 'Enter' | 'leave' | 'Escape' = 'Enter') => {
    fireEvent.change(input, { target: { value: text } });
    if (end === 'leave') fireEvent.blur(input);
    else fireEvent.keyDown(input, { key: end });
  };
  return { input, taken, types };
}

describe('a number', () => {
  test.each([
    ['12', 12],
    [' 12.5 ', 12.5],
    ['12,5', 12.5],
    ['1e1', 10],
  ])('typed as %j is taken as %d', (text, value) => {
    const { input, taken, types } = numberField(4);
    types(text);
    expect(taken).toEqual([value]);
    expect(input.value).toBe(String(value));
  });

  test('is taken when the field is left, and not before', () => {
    const { taken, types, input } = numberField(4);
    fireEvent.change(input, { target: { value: '7' } });
    expect(taken).toEqual([]);
    types('7', 'leave');
    expect(taken).toEqual([7]);
  });

  test.each(['many', '', '101', '-1', 'NaN', 'Infinity'])('%j is refused, and what was there stays', (text) => {
    const { input, taken, types } = numberField(4);
    types(text);
    expect([taken, input.value]).toEqual([[], '4']);
  });

  test('is left as it was by Escape', () => {
    const { input, taken, types } = numberField(4);
    types('9', 'Escape');
    expect([taken, input.value]).toEqual([[], '4']);
  });

  test('is stepped by arrow keys, doubled and halved with Shift, within its range', () => {
    const { input, taken } = numberField(30);
    const press = (key: string, shiftKey = false) => fireEvent.keyDown(input, { key, shiftKey });
    press('ArrowUp');
    press('ArrowDown');
    press('ArrowUp', true);
    press('ArrowUp', true);
    press('ArrowDown', true);
    expect(taken).toEqual([31, 30, 60, 30]);
    expect(input.value).toBe('30');
  });

  test('that is a fraction is stepped without a tail of digits', () => {
    const { input, taken } = numberField(0.3, { step: 0.1 });
    for (let i = 0; i < 3; i++) fireEvent.keyDown(input, { key: 'ArrowUp' });
    expect(taken).toEqual([0.4, 0.5, 0.6]);
  });

  test('may be none where that has a word, which is shown and can be typed', () => {
    const { input, taken, types } = numberField(4, { off: 'no limit' });
    types('no limit');
    expect([taken, input.value]).toEqual([[null], 'no limit']);
    types('5');
    types('');
    expect([taken, input.value]).toEqual([[null, 5, null], 'no limit']);
  });

  test('shows its unit', () => {
    numberField(4, { suffix: 'px' });
    expect(screen.getByText('px')).toBeTruthy();
  });
});

describe('one of several', () => {
  const options = [
    { value: 'none', label: 'none' },
    { value: 'all', label: 'all bounces', under: 'By bounce' },
    { value: 'diffuse', label: 'diffuse bounces', under: 'By bounce' },
  ];

  test('opens by key with its headings, tells which is chosen, and takes another', () => {
    const taken: string[] = [];
    shown(<Choice label="Ledger" value="all" options={options} onChange={(v) => taken.push(v)} />);
    const trigger = screen.getByRole('combobox', { name: 'Ledger' });
    expect(trigger.textContent).toBe('all bounces');
    fireEvent.keyDown(trigger, { key: 'Enter' });
    expect(screen.getAllByRole('option').map((o) => o.textContent)).toEqual(['none', 'all bounces', 'diffuse bounces']);
    expect(screen.getByText('By bounce')).toBeTruthy();
    expect(screen.getByRole('option', { name: 'all bounces' }).dataset.state).toBe('checked');
    fireEvent.keyDown(screen.getByRole('option', { name: 'diffuse bounces' }), { key: 'Enter' });
    expect(taken).toEqual(['diffuse']);
  });

  test('says what stands for nothing', () => {
    shown(<Choice label="Camera" value={null} placeholder="≠ differ" options={['wide']} onChange={() => {}} />);
    expect(screen.getByRole('combobox', { name: 'Camera' }).textContent).toBe('≠ differ');
  });
});

describe('several names', () => {
  const names = ['lantern', 'lens', 'rail', 'stair'];

  test('are searched, put in and taken out', () => {
    const taken: string[][] = [];
    shown(
      <NamesField
        label="Lights only"
        none="everything"
        value={['rail']}
        options={names}
        onChange={(v) => taken.push(v)}
      />,
    );
    fireEvent.click(screen.getByRole('button', { name: 'Lights only' }));
    fireEvent.change(screen.getByRole('textbox', { name: 'search Lights only' }), { target: { value: 'L' } });
    expect(screen.getAllByRole('option').map((o) => o.textContent)).toEqual(['lantern', 'lens', 'rail']);
    fireEvent.click(screen.getByRole('option', { name: 'lens' }));
    fireEvent.click(screen.getByRole('option', { name: 'rail' }));
    expect(taken).toEqual([['rail', 'lens'], []]);
    fireEvent.change(screen.getByRole('textbox', { name: 'search Lights only' }), { target: { value: 'boat' } });
    expect(screen.getByText('Nothing of that name.')).toBeTruthy();
  });

  test.each([
    [[], false, 'everything'],
    [['lens', 'rail'], false, 'lens, rail'],
    [['lens'], true, '≠ differ'],
  ] as [string[], boolean, string][])('%j (differing: %s) are told as %j', (value, mixed, words) => {
    shown(
      <NamesField
        label="Lights only"
        none="everything"
        value={value}
        mixed={mixed}
        options={names}
        onChange={() => {}}
      />,
    );
    expect(screen.getByRole('button', { name: 'Lights only' }).textContent).toBe(words);
  });
});

describe('a word', () => {
  test('is typed, or taken from those there are; an empty or refused one changes nothing', () => {
    const taken: string[] = [];
    const take = (word: string) => {
      if (word === 'taken') return 'is taken';
      taken.push(word);
      return null;
    };
    shown(<WordsField label="Light group" value="key" known={['key', 'moon']} onChange={take} />);
    const input = screen.getByRole('textbox', { name: 'Light group' }) as HTMLInputElement;
    for (const word of ['', 'key', 'taken', ' flame ']) {
      fireEvent.change(input, { target: { value: word } });
      fireEvent.blur(input);
    }
    expect(taken).toEqual(['flame']);
    fireEvent.keyDown(screen.getByRole('button', { name: 'Light group: those there are' }), { key: 'Enter' });
    fireEvent.click(screen.getByRole('menuitem', { name: 'moon' }));
    expect(taken).toEqual(['flame', 'moon']);
  });
});

test('a line of text hands on what is typed, and holds no more than it may', () => {
  const taken: string[] = [];
  shown(<TextField label="Name" value="a" most={40} onChange={(v) => taken.push(v)} />);
  const input = screen.getByRole('textbox', { name: 'Name' }) as HTMLInputElement;
  fireEvent.change(input, { target: { value: 'ab' } });
  expect([taken, input.maxLength]).toEqual([['ab'], 40]);
});

test('a toggle is switched, and says which way it stands', () => {
  const taken: boolean[] = [];
  shown(<Toggle label="Caustics" on={false} onChange={(on) => taken.push(on)} />);
  const toggle = screen.getByRole('switch', { name: 'Caustics', checked: false });
  fireEvent.click(toggle);
  expect(taken).toEqual([true]);
});
