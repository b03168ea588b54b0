import { tablesIn, tokensOf } from '../../src';

test.each([
  ['select * from harvests', ['harvests harvests']],
  ['select * from coop.harvests h, coop."Odd Name" as o where a in (select b from t)', ['coop.harvests h', 'coop.Odd Name o', 't t']],
  ['select extract(year from picked_on), trim(both from x) from coop.h', ['coop.h h']],
  ['select a is distinct from b from t', ['t t']],
  ['with own as (select * from real r) select * from own join other o on o.a = own.a', ['real r', 'other o']],
  ['with own(a, b) as materialized (select 1, 2) select * from own', []],
  ['select * from generate_series(1, 3) g, lateral (select 1) x, kept', ['kept kept']],
  ['select * from a left join b using (c) order by d, e', ['a a', 'b b']],
  ['select * from a where x in (1, 2) and y = (select max(z) from c)', ['a a', 'c c']],
  ["select * from (values (1, 'a', null), (2, b, c)) v (a, b, c), kept", ['kept kept']],
  ['select * fr', []],
  ['select * from a join', ['a a']],
])('the tables of %s', (text, tables) => {
  expect(
    tablesIn(tokensOf(text)).map(({ schema, table, alias }) => `${schema === undefined ? '' : `${schema}.`}${table} ${alias}`),
  ).toEqual(tables);
});
