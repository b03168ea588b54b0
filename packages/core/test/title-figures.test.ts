import type { Layout, SheetField } from '../src';
import {
  decimal,
  filledFigures,
  keptFigures,
  layoutWithIds,
  PLAIN_LAYOUT,
  sheetFields,
  text,
  titleFigures,
  titleProblems,
  typedFigures,
  unknownFigures,
} from '../src';
import { handed as field } from './support/fields';

/** Figures in a title that is written by hand. */

const given = {
  fields: [
    field('k', decimal(8, 2), 'measure', 'kilos'),
    field('m', decimal(4, 1), 'measure', 'moisture'),
    field('g', text, 'attribute', 'grade'),
  ],
};
const fields: readonly SheetField[] = sheetFields(given, [{ field: 'm', addsUp: 'over nothing' }], []);
const layout = (title: string, note?: string): Layout => ({ ...PLAIN_LAYOUT, title, ...(note === undefined ? {} : { note }) });

test('they are typed by the label or the name of a field and kept by its id; other brackets are words', () => {
  const typed = 'Yield: [sum of Kilos] kg, [Average of moisture] % [see note] [sum of honey]';
  const kept = 'Yield: [sum of {k}] kg, [average of {m}] % [see note] [sum of honey]';
  expect(keptFigures(typed, fields)).toBe(kept);
  expect(typedFigures(kept, fields)).toBe('Yield: [sum of Kilos] kg, [average of Moisture] % [see note] [sum of honey]');
  expect(unknownFigures(kept)).toEqual(['[sum of honey]']);
  expect(typedFigures('[sum of {x}]', fields)).toBe('[sum of gone]');
});

test('fields of one label are typed by their names', () => {
  const alike = fields.map((each) => ({ ...each, label: 'Weight' }));
  expect(keptFigures('[sum of moisture]', alike)).toBe('[sum of {m}]');
  expect(typedFigures('[sum of {m}]', alike)).toBe('[sum of moisture]');
});

test('each stands once among those that are asked for, and is shown in the format of its field', () => {
  const asked = layout('[sum of {k}] and again [sum of {k}]', 'of [distinct count of {g}] grades');
  const figures = titleFigures(asked, fields);
  expect(figures).toEqual([
    { aggregate: 'sum', field: 'k' },
    { aggregate: 'distinct count', field: 'g' },
  ]);
  const shown = (words: string, cells?: readonly (string | null)[]) => filledFigures(words, figures, cells, fields);
  expect(shown('[sum of {k}] kg of [distinct count of {g}]', ['1234.50', '3'])).toBe('1\u202f234.50 kg of 3');
  expect(shown('[sum of {k}] kg', [null, '0'])).toBe('none kg');
  expect(shown('[sum of {k}] kg')).toBe('… kg');
});

test('what all rows have not, or what is gone, is told and not shown', () => {
  const asked = layout('[sum of {m}] of [sum of {x}]');
  expect(titleFigures(asked, fields)).toEqual([]);
  expect(titleProblems(asked, fields).map(({ code, message }) => [code, message])).toEqual([
    ['title-figure-unsuited', 'The title names the sum of moisture, which all rows together have not.'],
    ['title-field-gone', 'The title names a figure of a field that is not handed over.'],
  ]);
  expect(filledFigures(asked.title ?? '', [], [], fields)).toBe('… of …');
});

test('they go with a copy, as parameters do', () =>
  expect(layoutWithIds(layout('[sum of {k}] of :{p}'), (id) => `new ${id}`).title).toBe('[sum of {new k}] of :{new p}'));
