import { commonTablesIn, countedTable, partOf, statementsIn, tokensOf } from '../../src';

const TEXT = `with picked as (select * from h where season = :season), sums(code, kilos) as materialized (
  select apiary_code, sum(kilos) from picked group by 1
)
select s.code, s.kilos / 2 as half, (select count(*) from a where a.code = s.code) as n
from sums s join a on a.code = s.code
where s.kilos >= :least and s.code in (select code from a)
order by half limit 5`;

function part(chosen: string, text = TEXT) {
  const [statement] = statementsIn(tokensOf(text));
  const from = text.indexOf(chosen);
  if (!statement || from < 0) throw new Error('it is in the text');
  return partOf(text, statement, { from, to: from + chosen.length });
}
const textOf = (chosen: string, text = TEXT) => {
  const found = part(chosen, text);
  return found.ok ? found.text.replace(/\s+/g, ' ').trim() : found.because;
};
const PICKED = 'with picked as (select * from h where season = :season)';
const BOTH = `${PICKED}, sums(code, kilos) as materialized ( select apiary_code, sum(kilos) from picked group by 1 )`;
const FROM = 'from sums s join a on a.code = s.code';

test('the common table expressions of a text', () => {
  const [statement] = statementsIn(tokensOf(TEXT));
  if (!statement) throw new Error('there is a statement');
  const tables = commonTablesIn(statement);
  expect(tables.map((each) => each.name)).toEqual(['picked', 'sums']);
  expect(tables.map((each) => countedTable(TEXT, statement, each).replace(/\s+/g, ' '))).toEqual([
    `${PICKED} select count(*) as rows from picked`,
    `${BOTH} select count(*) as rows from sums`,
  ]);
});

test.each([
  ['(select count(*) from a where a.code = s.code)', `${BOTH} select count(*) from a where a.code = s.code`],
  ['select apiary_code, sum(kilos) from picked group by 1', `${PICKED} select apiary_code, sum(kilos) from picked group by 1`],
  ['picked as (select * from h where season = :season)', `${PICKED} select * from picked`],
  ['s.kilos / 2', `${BOTH} select s.kilos / 2 as part ${FROM} where s.kilos >= :least and s.code in (select code from a)`],
  ['s.kilos >= :least', `${BOTH} select s.kilos as "left", :least as "right", (s.kilos >= :least) as holds ${FROM}`],
  ['season = :season', 'select season as "left", :season as "right", (season = :season) as holds from h'],
  ['sum(kilos)', `${PICKED} select sum(kilos) as part from picked group by 1`],
])('%s alone', (chosen, text) => {
  expect(textOf(chosen)).toBe(text);
});

test('a union is cut to the select something stands in', () => {
  expect(textOf('b + 1', 'select a from x union select b + 1 from y where c order by 1')).toBe('select b + 1 as part from y where c');
  expect(textOf('1 + 1', 'select 1 + 1')).toBe('select 1 + 1 as part');
});

test('nothing chosen is told', () => {
  const [statement] = statementsIn(tokensOf('select 1'));
  expect(statement && partOf('select 1', statement, { from: 3, to: 3 })).toMatchObject({ ok: false });
});
