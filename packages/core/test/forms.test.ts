import { FORMS, FUNCTIONS, findForms, WINDOWS } from '../src';
import { OTHER_WORDS } from '../src/expressions/functions/other-words';

/** What can be written is found by what it is called, what it does, and what others call it. */

const found = (sought: string) => findForms(sought).map(({ name }) => name);

test.each([
  ['year', 'extract'],
  ['concat', '||'],
  ['if', 'case'],
  ['left', 'substring'],
  ['today', 'current_date'],
  ['isnull', 'coalesce'],
  ['capitals', 'upper'],
  ['last day month', 'end_of_month'],
  ['average', 'avg'],
  ['COAL', 'coalesce'],
])('%s finds %s', (sought, name) => {
  expect(found(sought)).toContain(name);
});

test('what is called so, or so by others, comes before what only mentions it', () => {
  expect(found('round')[0]).toBe('round');
  expect(found('if')[0]).toBe('case');
  expect(found('null')).toEqual(expect.arrayContaining(['coalesce', 'nullif', 'is null']));
});

test('nothing is found for what nothing is called, and all for nothing', () => {
  expect(found('zzz')).toEqual([]);
  expect(found(' ')).toHaveLength(FORMS.length);
});

test('every function is among them, and every other word leads to one', () => {
  const names = new Set(FORMS.map(({ name }) => name));
  expect([...FUNCTIONS, ...WINDOWS].filter(({ name }) => !names.has(name.split(' ')[0] ?? ''))).toEqual([]);
  const led = new Set(FORMS.flatMap(({ otherWords }) => otherWords));
  expect([...OTHER_WORDS.keys()].filter((word) => !led.has(word))).toEqual([]);
});
