import { loadModule } from 'libpg-query';
import { applyEdits, checkTrail, emptyDefinition, saidInstead } from '../../src';
import { CORPUS } from '../support/corpus';
import { definitionOf, handedOver, parameter, PARAMETERS, saidOf, sentencesOf, stepOf } from '../support/texts-to-say';

/** Texts beside the steps they come to, each by its kind and sentence. */

beforeAll(() => loadModule());

test.each<[text: string, columns: string, steps: readonly string[]]>([
  ['select id, kilos from coop.harvests', 'id kilos', ['table: harvests']],
  ['select * from coop.apiaries', 'code name hives region_code', ['table: apiaries']],
  [
    "select h.id from coop.harvests h where h.kilos >= 5 and h.grade in ('A', 'B') and h.picked_on between date '2025-04-01' and date '2025-09-30'",
    'id',
    ['table: harvests', 'criteria: kilos at least 5 and grade one of A, B and picked_on within 2025-04-01 to 2025-09-30'],
  ],
  [
    "select id from coop.harvests where kilos > 5 or grade = 'A'",
    'id',
    ['table: harvests', 'criteria: at least one: kilos above 5; grade is A'],
  ],
  [
    "select id from coop.harvests where grade like 'A%' and not checked",
    'id',
    ['table: harvests', 'criteria: grade begins A and checked is no'],
  ],
  [
    'select id from coop.harvests where kilos >= :least and grade in (:grades) and picked_on between :period',
    'id',
    ['table: harvests', 'criteria: kilos at least :least and grade one of :grades and picked_on within :period'],
  ],
  ['select id from coop.harvests where :grade is null or grade = :grade', 'id', ['table: harvests', 'criteria: grade is :grade']],
  [
    'select h.id, a.name from coop.harvests h left join coop.apiaries a on a.code = h.apiary_code',
    'id name',
    ['table: harvests', 'table: apiaries', 'join: meets its row of apiaries where apiary_code equals code'],
  ],
  [
    'select h.id, a.name from coop.harvests h, coop.apiaries a where h.kilos > 5 and a.code = h.apiary_code',
    'id name',
    ['table: harvests', 'table: apiaries', 'join: meets its row of apiaries where apiary_code equals code', 'criteria: kilos above 5'],
  ],
  [
    'select a.id from coop.harvests a join coop.deliveries b using (id)',
    'id',
    ['table: harvests', 'table: deliveries', 'join: meets its row of deliveries where id equals b_id'],
  ],
  [
    'select grade, count(*) as n, sum(kilos) as kilos from coop.harvests group by grade having sum(kilos) > 100 order by 3 desc limit 5',
    'grade n kilos',
    [
      'table: harvests',
      'summarise: one row per grade, with rows and sum of kilos',
      'criteria: kilos above 100',
      'arrange: first 5, by kilos descending',
    ],
  ],
  [
    'select grade, sum(kilos) / count(*) as each from coop.harvests group by 1',
    'grade each',
    ['table: harvests', 'summarise: one row per grade, with sum of kilos and rows', 'calculate: with each', 'arrange: 2 fields'],
  ],
  [
    "select count(*) filter (where checked) as good, string_agg(grade, '/' order by id) as grades, percentile_cont(0.5) within group (order by kilos) as middle from coop.harvests",
    'good grades middle',
    ['table: harvests', 'summarise: one row of all, with rows where checked, joined of grade and median of kilos'],
  ],
  [
    'select extract(year from picked_on) as year, max(kilos) as most from coop.harvests group by year',
    'year most',
    ['table: harvests', 'summarise: one row per year, with greatest of kilos'],
  ],
  [
    'select distinct grade from coop.harvests order by grade',
    'grade',
    ['table: harvests', 'arrange: one row per grade, by grade, 1 field'],
  ],
  [
    'select distinct on (apiary_code) apiary_code, kilos from coop.harvests order by apiary_code, kilos desc nulls last',
    'apiary_code kilos',
    ['table: harvests', 'arrange: one row per apiary_code, by apiary_code and kilos descending, 2 fields'],
  ],
  [
    'select id from coop.harvests order by kilos * 2 limit :rows',
    'id',
    ['table: harvests', 'calculate: with order 1', 'arrange: first :rows, by order 1, 1 field'],
  ],
  [
    'with good as (select * from coop.harvests where checked) select g.grade, count(*) as n from good g group by g.grade',
    'grade n',
    ['table: harvests', 'criteria: checked is yes', 'summarise: one row per grade, with rows'],
  ],
  [
    'select id from coop.harvests union all select id from coop.deliveries',
    'id',
    ['table: harvests', 'table: deliveries', 'union: rows of harvests and rows of deliveries on top of one another'],
  ],
  [
    'select id from coop.harvests h where exists (select 1 from coop.apiaries a where a.code = h.apiary_code and a.hives > 3)',
    'id',
    ['table: harvests', 'table: apiaries', 'criteria: hives above 3', 'join: meets its row of apiaries where apiary_code equals code'],
  ],
  [
    'select id from coop.harvests h where not exists (select 1 from coop.deliveries d where d.harvest_id = h.id)',
    'id',
    ['table: harvests', 'table: deliveries', 'join: meets its row of deliveries where id equals harvest_id'],
  ],
  [
    'select id from coop.harvests where id in (select harvest_id from coop.deliveries where kilos > 5)',
    'id',
    [
      'table: harvests',
      'table: deliveries',
      'criteria: kilos above 5',
      'arrange: one row per harvest_id, 1 field',
      'join: meets its harvest_id where id equals harvest_id',
    ],
  ],
])('%s', (text, columns, steps) => {
  const said = saidOf(text, columns.split(' '));
  expect(sentencesOf(said)).toEqual(steps);
  expect(handedOver(said)).toHaveLength(columns.split(' ').length);
  expect(said).toMatchObject({ stays: [] });
});

test.each([
  ['select 1', 'It reads from no table.'],
  ['values (1)', 'Rows that are written in the text have no step.'],
  ['select grade, sum(kilos) from coop.harvests group by rollup (grade)', 'Groups of several kinds at once have no step.'],
  ['select id from coop.harvests limit 5 offset 5', 'Rows that are skipped (`offset`) have no step.'],
  ['select id from coop.harvests intersect select id from coop.deliveries', '`intersect` and `except` have no step.'],
  [
    'with recursive n as (select 1 as i union all select i + 1 from n) select i from n',
    'A query that builds on its own rows (with recursive) has no step.',
  ],
  ['select array_agg(id) from coop.harvests', 'array_agg called like this is no figure of a summary.'],
  ['select ntile(4) over (order by id) as id from coop.harvests', 'ntile over other rows has no counterpart.'],
  ['select id from; select 2', 'It is not one statement.'],
])('%s has no step', (text, because) => {
  expect(saidOf(text, ['id', 'sum'].slice(0, text.includes('sum') ? 2 : 1))).toMatchObject({ kind: 'unsaid', stays: [{ because }] });
});

test('what a blank parameter would mean otherwise stays SQL: the text asks with null, the steps would ask for null', () => {
  const said = saidOf('select id from coop.harvests where grade = :flower and kilos > 5', ['id']);
  expect(said).toEqual({ kind: 'asks', text: 'select kilos as kilos, id as id\nfrom coop.harvests\nwhere grade = :flower' });
});

test('a parameter that is null when blank switches its one condition off in steps, where the text asks and nothing else relies on it', () => {
  const text = 'select id from coop.harvests where (:flower is null or grade = :flower) and kilos > 5';
  const said = saidOf(text, ['id']);
  expect(said).toMatchObject({ kind: 'said', off: [parameter({ name: 'flower' }).id], stays: [] });
  expect(sentencesOf(said)).toEqual(['table: harvests', 'criteria: grade is :flower and kilos above 5']);
  expect(saidOf(text, ['id'], {}, [parameter({ name: 'flower' }).id]).kind).toBe('asks');
  // Blank, the text has no row for it here, and a condition that is off has all.
  expect(saidOf('select id from coop.harvests where (:grade is null or grade = :grade) and apiary_code = :grade', ['id']).kind).toBe(
    'asks',
  );
});

test('a query in parentheses without steps stays SQL on a lane of its own', () => {
  const inner = 'select code, name as mark from coop.apiaries order by 1 offset 2';
  const text = `select h.id, x.mark from coop.harvests h join (${inner}) x on x.code = h.apiary_code where h.kilos > 5`;
  expect(saidOf(text, ['id', 'mark'])).toEqual({ kind: 'asks', text: inner });
  const said = saidOf(text, ['id', 'mark'], { [inner]: ['code', 'mark'] });
  expect(sentencesOf(said)).toEqual([
    'table: harvests',
    'sql: SQL over apiaries',
    'join: meets its row of the text where apiary_code equals code',
    'criteria: kilos above 5',
  ]);
  expect(said).toMatchObject({ stays: [{ words: inner, because: 'Rows that are skipped (`offset`) have no step.' }] });
});

test('the steps stand in the place of the text: what stood on it goes on, and is handed over under the same names', () => {
  const text = stepOf('select h.kilos as weight, a.name from coop.harvests h join coop.apiaries a on a.code = h.apiary_code', [
    'weight',
    'name',
  ]);
  const behind = {
    id: 'behind',
    kind: 'calculate' as const,
    name: '',
    off: false,
    inputs: [text.id],
    fields: [
      {
        id: 'double',
        name: 'double',
        expression: { text: 'weight * 2', refs: [{ kind: 'field' as const, id: 'own weight', from: 0, to: 6 }] },
      },
    ],
  };
  const numbers = {
    ...text,
    fields: text.fields.map((each) => (each.name === 'weight' ? { ...each, type: { kind: 'whole' as const } } : each)),
  };
  const definition = { ...emptyDefinition('Weights'), parameters: PARAMETERS, steps: [numbers, behind], result: 'behind' };
  const said = saidOf(text.sql.text, ['weight', 'name']);
  if (said.kind !== 'said') throw new Error(said.kind);
  const now = applyEdits(definition, saidInstead(definition, numbers, said));
  expect(now.steps.map((each) => each.kind)).toEqual(['table', 'table', 'join', 'calculate']);
  expect(now.steps[2]?.id).toBe(text.id);
  const { steps, problems } = checkTrail(now);
  expect(problems.filter((each) => each.severity === 'error')).toEqual([]);
  const result = steps.at(-1);
  expect(result?.schema.fields.filter((each) => !each.forUseOnly).map(({ id, name }) => [id, name])).toEqual([
    ['own weight', 'kilos'],
    ['own name', 'name'],
    ['double', 'double'],
  ]);
  expect(now.steps[3]).toMatchObject({ fields: [{ expression: { text: 'kilos * 2' } }] });
  expect(now.sheet).toEqual([{ field: 'own weight', name: 'weight' }]);
});

test('whatever is pasted is said, stays SQL or asks its source: nothing is thrown', () => {
  const outcomes = CORPUS.filter(({ text, dressed }) => text.length < 20_000 || dressed === 'as it is').map(
    ({ text }) => saidOf(text, ['x']).kind,
  );
  expect(outcomes.length).toBeGreaterThan(300);
  expect(new Set(outcomes)).toEqual(new Set(['said', 'unsaid', 'asks']));
});

test('every part that stays is told once, however many there are', () => {
  const text = "select md5(grade) as a, md5(apiary_code) as b, kilos from coop.harvests where grade ~ 'A' and kilos > 5";
  const first = saidOf(text, ['a', 'b', 'kilos']);
  if (first.kind !== 'asks') throw new Error(first.kind);
  const described: Record<string, readonly string[]> = { [first.text]: ['kilos'] };
  for (let said: ReturnType<typeof saidOf> = first; said.kind === 'asks'; said = saidOf(text, ['a', 'b', 'kilos'], described))
    described[said.text] = ['x', 'y', 'z'].slice(0, said.text.split(' as ').length - 1);
  const said = saidOf(text, ['a', 'b', 'kilos'], described);
  const words = said.kind === 'asks' ? [] : said.stays.map((each) => each.words);
  expect(words.length).toBeGreaterThan(1);
  expect(new Set(words).size).toBe(words.length);
});

test('the order of a query within is let go, unless it decides which rows there are', () => {
  expect(sentencesOf(saidOf('select x.id from (select id, kilos from coop.harvests order by kilos * 2) x', ['id']))).toEqual([
    'table: harvests',
  ]);
  expect(sentencesOf(saidOf('select x.id from (select id from coop.harvests order by kilos limit 5) x', ['id']))).toEqual([
    'table: harvests',
    'arrange: first 5, by kilos',
  ]);
});

test('a parameter under its name in the text is the one of the dataset', () => {
  const definition = definitionOf(saidOf('select id from coop.harvests where grade = :grade', ['id']));
  expect(JSON.stringify(definition.steps)).toContain(parameter({ name: 'grade' }).id);
});
