import { statementsIn, tokensOf, unionsIn } from '../../src';

function unions(text: string) {
  const [statement] = statementsIn(tokensOf(text));
  if (!statement) throw new Error('there is a statement');
  return unionsIn(text, statement).map(({ from, to, once, all }) => ({
    words: text.slice(from, to),
    once: once.replace(/\s+/g, ' '),
    all: all.replace(/\s+/g, ' '),
  }));
}
const counted = (query: string, head = '') => `${head}select count(*) as rows from ( ${query.trim()} ) as counted`;

describe('the unions of a text that take repeated rows once', () => {
  test('with what they give, and what they would with all rows', () => {
    expect(unions('select a from x union select b from y order by 1 limit 5')).toEqual([
      {
        words: 'union',
        once: counted('select a from x union select b from y '),
        all: counted('select a from x union all select b from y '),
      },
    ]);
    expect(unions('select a from x UNION DISTINCT values (1)').map((each) => [each.words, each.all])).toEqual([
      ['UNION DISTINCT', counted('select a from x union all values (1)')],
    ]);
    expect(unions('select \'union\' as a, "union" from x -- union\nunion all select 1')).toEqual([]);
  });

  test('each with all that stands before it, and nothing that follows', () => {
    expect(unions('select 1 union select 2 union all select 3 union select 4').map((each) => each.all)).toEqual([
      counted('select 1 union all select 2 '),
      counted('select 1 union select 2 union all select 3 union all select 4'),
    ]);
    expect(unions('select 1 union (select 2 union select 3 order by 1)').map((each) => each.all)).toEqual([
      counted('select 1 union all (select 2 union select 3 order by 1)'),
      counted('select 2 union all select 3 '),
    ]);
  });

  test('with the common table expressions before them', () => {
    const text = 'with a as (select 1 union select 2), b as (select 3) select * from a union select * from b';
    expect(unions(text).map((each) => each.once)).toEqual([
      counted('select 1 union select 2'),
      counted('select * from a union select * from b', 'with a as (select 1 union select 2), b as (select 3) '),
    ]);
  });

  test('in a nested query, by itself', () => {
    expect(unions('select n from (select 1 as n union select :x) t where n in (select 5)').map((each) => each.all)).toEqual([
      counted('select 1 as n union all select :x'),
    ]);
  });

  test.each(['', 'union', '(((union', 'union union', ') union (', "select 'open union", 'with a as (select 1 union'])(
    '“%s” is no harm',
    (text) => {
      const [statement] = statementsIn(tokensOf(text));
      if (statement) expect(unionsIn(text, statement).every((each) => each.from >= 0)).toBe(true);
    },
  );
});
