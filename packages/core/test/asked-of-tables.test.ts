import type { DescribedText, Parameter } from '../src';
import {
  applyEdits,
  columnsAskedOf,
  conversionOf,
  convertEdits,
  emptyDefinition,
  sqlStep,
  sqlText,
  takeTextOver,
  text as textType,
  whole,
} from '../src';
import { TABLES } from './support/texts-to-say';

/** What the parameters of a text are asked of, and what they are offered for it. */

test.each([
  ['select id from coop.harvests h where h.grade = :grade and apiary_code in (:codes)', 'grade harvests.grade, codes harvests.apiary_code'],
  [
    'select 1 from coop.harvests h join coop.apiaries a on a.code = :code where a.name = any (:names)',
    'code apiaries.code, names apiaries.name',
  ],
  ['select 1 from coop.harvests where kilos >= :least and picked_on between :period', ''],
  ['select 1 from coop.harvests where frames + 1 = :n and kilos::int = :m and extract(year from picked_on) = :season', ''],
  ['select 1 from coop.harvests where grade not in (:grades) and grade <> :grade', ''],
  ['select 1 from coop.harvests h, coop.deliveries d where id = :id and d.id = :other', 'other deliveries.id'],
  ['select 1 from coop.elsewhere e where e.code = :code', ''],
  ['select 1 from coop.harvests where grade = :grade or (grade = :grade and id = :id)', 'grade harvests.grade, id harvests.id'],
])('%s', (text, asked) => {
  const found = columnsAskedOf(text, TABLES).map((each) => `${each.parameter} ${each.table.name}.${each.column}`);
  expect(found.join(', ')).toBe(asked);
});

/** The parameters a text brings to a dataset without any. */
function parametersOf(text: string): readonly Parameter[] {
  let minted = 0;
  const mint = () => `id ${++minted}`;
  const step = sqlStep(mint, 's', sqlText(text, []));
  const definition = { ...emptyDefinition('Text'), steps: [step], result: step.id };
  const met = columnsAskedOf(text, TABLES).map(({ parameter, table, column }) => {
    const type = table.columns.find((each) => each.name === column)?.type ?? textType;
    return { name: parameter, sourceType: type === whole ? 'integer' : 'text', type };
  });
  const described: DescribedText = { columns: [], met, tables: TABLES };
  return applyEdits(definition, takeTextOver(definition, step, text, described, mint).edits).parameters;
}

test('choices come of the table a declared key leads to, by its name, else of the column itself', () => {
  const [apiary, grade] = parametersOf('select 1 from coop.harvests h where h.apiary_code = :apiary and h.grade in (:grades)');
  expect(apiary?.choices).toMatchObject({
    from: 'table',
    table: { source: 's', schema: 'coop', table: 'apiaries' },
    field: 'code',
    label: 'name',
    sorted: 'by label',
    narrowedBy: [],
  });
  expect(grade?.choices).toMatchObject({
    from: 'table',
    table: { table: 'harvests' },
    field: 'grade',
    label: null,
    narrowedBy: [{ parameter: apiary?.id, field: 'apiary_code' }],
  });
});

test('they are narrowed by what is asked of the same table before, never the other way too', () => {
  const [region, apiary] = parametersOf(
    'select 1 from coop.harvests h join coop.apiaries a on a.code = h.apiary_code where a.region_code = :region and h.apiary_code = :apiary',
  );
  expect(region?.choices).toMatchObject({ table: { table: 'apiaries' }, field: 'region_code', narrowedBy: [] });
  expect(apiary?.choices).toMatchObject({
    table: { table: 'apiaries' },
    field: 'code',
    narrowedBy: [{ parameter: region?.id, field: 'region_code' }],
  });
});

test('amounts, days and ranges are not chosen among', () => {
  const made = parametersOf(
    'select 1 from coop.harvests where kilos = :kilos and picked_on = :day and checked = :checked and id between :ids',
  );
  expect(made.map((each) => [each.name, each.choices])).toEqual([
    ['kilos', undefined],
    ['day', undefined],
    ['checked', undefined],
    ['ids', undefined],
  ]);
});

test('what a declaration at the head brings is chosen among as well, where it is declared of the column’s type', () => {
  const converted = conversionOf(
    "declare @apiary varchar(10) = 'A-01', @grade int = 1;\nselect 1 from coop.harvests h where h.apiary_code = @apiary and h.grade = @grade",
  );
  if (!converted) throw new Error('it has declarations');
  let minted = 0;
  const mint = () => `id ${++minted}`;
  const step = sqlStep(mint, 's', sqlText('', []));
  const definition = { ...emptyDefinition('Text'), steps: [step], result: step.id };
  const [apiary, grade] = applyEdits(definition, convertEdits(definition, step, converted, TABLES, mint)).parameters;
  expect(apiary).toMatchObject({
    type: 'text',
    startsAs: ['A-01'],
    choices: { table: { table: 'apiaries' }, field: 'code', label: 'name' },
  });
  expect(grade).toMatchObject({ type: 'whole number', startsAs: ['1'] });
  expect(grade).not.toHaveProperty('choices');
});
