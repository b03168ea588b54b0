import type { Choices, Definition } from '../src';
import { applyEdits, emptyDefinition, pointEdits, sqlStep, sqlText } from '../src';
import { parameter } from './support/texts-to-say';

/** A text pointed to another source takes the choices along that came from the one it ran in. */

const choices = (source: string): Choices => ({
  from: 'table',
  table: {
    source,
    schema: 'coop',
    table: 'apiaries',
    columns: [{ name: 'code', sourceType: 'text', type: { kind: 'text' }, looseText: false }],
  },
  field: 'code',
  label: null,
  sorted: 'by value',
  narrowedBy: [],
});

let minted = 0;
const text = sqlStep(() => `m${++minted}`, 'old', sqlText('select 1', []));
const definition: Definition = {
  ...emptyDefinition('Pointed'),
  steps: [text],
  result: text.id,
  parameters: [parameter({ name: 'own', choices: choices('old') }), parameter({ name: 'other', choices: choices('third') })],
};
const sources = ({ parameters }: Definition) =>
  parameters.map(({ choices: each }) => (each?.from === 'table' ? each.table.source : undefined));

test('choices follow, those from elsewhere stay', () => {
  expect(sources(applyEdits(definition, pointEdits(definition, text, 'new')))).toEqual(['new', 'third']);
});

test('they stay where another step still reads their source, and nothing is edited where it is the same', () => {
  const two = { ...definition, steps: [text, { ...text, id: 'second' }], result: 'second' };
  expect(sources(applyEdits(two, pointEdits(two, text, 'new')))).toEqual(['old', 'third']);
  expect(pointEdits(definition, text, 'old')).toEqual([]);
});
