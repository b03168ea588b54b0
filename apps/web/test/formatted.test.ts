import { tokensOf } from '@cendra/core';
import { formatted } from '../src/bench/runnable/formatted';

/** What a text says, without how it is laid out. */
const said = (text: string) =>
  tokensOf(text)
    .filter((each) => each.kind !== 'blank')
    .map((each) => each.text);

describe('laying a text out anew leaves every word of it as it is', () => {
  test.each([
    "select a, 'it''s -- no :parameter' from t where x >= :least::numeric and y = any(:grades)",
    'with "a b" as not materialized (\nselect 1 as "row" offset 0) select "a b"."row" from "a b" as "a b 2"',
    'select count(*) filter (where (x) is true), x collate "C", arr[1:2], j->>\'k\' from t group by 1, rollup (a, b)',
    "-- Harvests: here “A”, 'B'\n-- second\nselect $tag$ it's $tag$, E'\\'', U&'d\\0061t' from t /* a /* nested */ one */",
    'select sum(x) over (partition by a order by b nulls last rows between unbounded preceding and 1 preceding) from generate_series(1, 5) as n(x)',
    "select timezone('Europe/Riga', t), interval '3' week, date '2024-01-01', x !~* 'a', (a).b from t left join lateral (select 1) l on true",
  ])('%s', (text) => {
    expect(said(formatted(text))).toEqual(said(text));
    expect(formatted(text)).toContain('\n');
  });

  test('one that cannot be read stays as it is', () => {
    expect(formatted("select 'open")).toBe("select 'open");
  });
});
