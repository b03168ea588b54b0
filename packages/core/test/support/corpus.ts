/**
 * Statements an analyst may paste, over the tables of the cooperative: each with the parameters in it, in their order. They
 * are also dressed in ways that change nothing of what they say.
 */

interface Pasted {
  readonly text: string;
  readonly parameters: readonly string[];
}

const pasted = (text: string, ...parameters: readonly string[]): Pasted => ({ text, parameters });

/** A text of two thousand lines. */
const long = `select h.id, case\n${Array.from({ length: 1_990 }, (_each, at) => `  when h.kilos > ${2_000 - at} then 'band ${at}'`).join('\n')}\n  else :rest end as band\nfrom coop.harvests h\nwhere h.kilos > :least`;

const STATEMENTS: readonly Pasted[] = [
  // Plain ones.
  pasted('select * from coop.harvests'),
  pasted('select id, kilos, grade from coop.harvests where kilos > :least', 'least'),
  pasted('select h.* from coop.harvests h where h.grade = :grade and h.kilos >= :least', 'grade', 'least'),
  pasted('select distinct grade from coop.harvests where floral_source = :source order by grade', 'source'),
  pasted('select distinct on (apiary_code) apiary_code, kilos from coop.harvests order by apiary_code, kilos desc nulls last'),
  pasted('select all id from coop.members where active'),
  pasted('select 1'),
  pasted('select :value as given', 'value'),
  pasted('select :a::int + :a::int as twice', 'a', 'a'),
  pasted('table coop.regions'),
  pasted("values (1, 'one'), (2, 'two')"),
  pasted('select'),
  // Conditions.
  pasted('select id from coop.harvests where kilos between :from and :until', 'from', 'until'),
  pasted('select id from coop.harvests where picked_on between :period', 'period'),
  pasted('select id from coop.harvests where grade in (:grades)', 'grades'),
  pasted('select id from coop.harvests where grade = any (:grades)', 'grades'),
  pasted('select id from coop.harvests where grade not in (:grades) or grade is null', 'grades'),
  pasted("select id from coop.members where last_name like :part || '%'", 'part'),
  pasted("select id from coop.members where last_name ilike '%' || :part || '%' and phone is not null", 'part'),
  pasted("select id from coop.members where last_name ~* '^o''' and not active"),
  pasted("select id from coop.members where last_name similar to '(O|T)%'"),
  pasted('select id from coop.harvests where (kilos, moisture) > (:kilos, :moisture)', 'kilos', 'moisture'),
  pasted('select id from coop.harvests where kilos is distinct from :kilos', 'kilos'),
  pasted(
    'select id from coop.harvests where exists (select 1 from coop.apiaries a where a.code = apiary_code and a.shared = :shared)',
    'shared',
  ),
  pasted('select id from coop.harvests where kilos > all (select amount / 100 from coop.advances where member_id = :member)', 'member'),
  pasted("select id from coop.harvests where picked_on >= date '2024-04-01' and picked_on < date '2024-04-01' + interval '1 month'"),
  pasted('select id from coop.harvests where extract(year from picked_on) = :season and not (grade = :grade)', 'season', 'grade'),
  pasted("select id from coop.harvests where case when :all then true else grade = 'A' end", 'all'),
  pasted('select id from coop.harvests where coalesce(:least, 0) <= kilos', 'least'),
  // Joins.
  pasted('select h.id, a.name from coop.harvests h join coop.apiaries a on a.code = h.apiary_code where a.altitude_m > :above', 'above'),
  pasted('select h.id, a.name from coop.harvests h left outer join coop.apiaries a on upper(trim(h.apiary_code)) = a.code'),
  pasted('select h.id, a.name from coop.harvests h right join coop.apiaries a on a.code = h.apiary_code'),
  pasted('select h.id, a.name from coop.harvests h full join coop.apiaries a on a.code = h.apiary_code'),
  pasted('select r.name, d.name from coop.regions r cross join coop.districts d'),
  pasted('select r.name, d.name from coop.regions r, coop.districts d where d.region_code = r.code'),
  pasted('select code, d.name from coop.regions r join coop.districts d using (code)'),
  pasted('select code from coop.regions natural join coop.districts'),
  pasted(
    'select a.name, h.kilos from coop.apiaries a, lateral (select kilos from coop.harvests where apiary_code = a.code order by kilos desc limit 1) h',
  ),
  pasted(
    'select d.name from coop.districts d join coop.district_regions s on s.district_code = d.code and :day between s.valid_from and coalesce(s.valid_until, :day)',
    'day',
    'day',
  ),
  pasted('select h.id from (coop.harvests h join coop.deliveries d on d.harvest_id = h.id) join coop.apiaries a on a.code = h.apiary_code'),
  // Groups and windows.
  pasted('select grade, count(*), sum(kilos) from coop.harvests group by grade having sum(kilos) > :least order by 2 desc', 'least'),
  pasted('select grade, floral_source, sum(kilos) from coop.harvests group by rollup (grade, floral_source)'),
  pasted('select grade, floral_source, sum(kilos) from coop.harvests group by cube (grade, floral_source)'),
  pasted(
    'select grade, floral_source, grouping(grade), sum(kilos) from coop.harvests group by grouping sets ((grade), (floral_source), ())',
  ),
  pasted('select count(*) filter (where grade = :grade), count(distinct apiary_code) from coop.harvests', 'grade'),
  pasted("select string_agg(distinct grade::text, ', ' order by grade::text) from coop.harvests"),
  pasted('select percentile_cont(0.5) within group (order by kilos) from coop.harvests'),
  pasted('select id, rank() over (partition by grade order by kilos desc) as place from coop.harvests'),
  pasted(
    'select id, sum(kilos) over w, lag(kilos, 1, 0.0) over w from coop.harvests window w as (partition by apiary_code order by picked_on, id)',
  ),
  pasted('select id, avg(kilos) over (order by id rows between :before preceding and current row) from coop.harvests', 'before'),
  pasted(
    "select id, first_value(kilos) over (order by picked_on range between interval '7 days' preceding and interval '7 days' following exclude current row) from coop.harvests",
  ),
  pasted("select date_trunc('month', picked_on) as month, sum(kilos) from coop.harvests group by 1 order by 1"),
  // Common tables and sets.
  pasted('with good as (select * from coop.harvests where grade = :grade) select count(*) from good', 'grade'),
  pasted(
    'with a (x, y) as (select id, kilos from coop.harvests), b as materialized (select * from a where y > :least) select * from b',
    'least',
  ),
  pasted('with recursive n (i) as (select 1 union all select i + 1 from n where i < :most) select i from n', 'most'),
  pasted('select id from coop.harvests union select id from coop.deliveries'),
  pasted('select id from coop.harvests union all (select id from coop.deliveries where kilos > :least limit 3) order by id', 'least'),
  pasted(
    '(select id from coop.harvests intersect select harvest_id from coop.deliveries) except all select id from coop.harvests where kilos is null',
  ),
  pasted("select * from (values (1, 'a'), (2, null)) as v (number, letter) where number <> :not", 'not'),
  // Expressions.
  pasted("select kilos * 2 + 1 as more, -kilos, kilos % 3, kilos ^ 2, |/ 16.0, @ -5, 7 / 2, 'a' || 'b' from coop.harvests"),
  pasted("select cast(kilos as text), kilos::numeric(6, 1), '2024-01-01'::date, numeric '1.5', interval '1 day 02:00' from coop.harvests"),
  pasted("select nullif(grade, 'A'), coalesce(moisture, kilos, 0), greatest(kilos, moisture), least(1, 2, null) from coop.harvests"),
  pasted(
    "select case grade when 'A' then 1 when 'B' then 2 end, case when kilos > :least then 'much' else 'little' end from coop.harvests",
    'least',
  ),
  pasted("select extract(epoch from weighed_at), weighed_at at time zone 'UTC', current_date, localtimestamp from coop.harvests"),
  pasted(
    "select substring(batch from 2 for 3), position('-' in batch), trim(both 'x' from batch), overlay(batch placing '#' from 1) from coop.harvests",
  ),
  pasted('select (array[1, 2, 3])[2], array(select id from coop.regions r, generate_series(1, 2) id), cardinality(array[[1], [2]])'),
  pasted("select ('{\"a\": {\"b\": 1}}'::jsonb -> 'a' ->> 'b')::int, '[1, 2]'::jsonb @> '1'"),
  pasted('select row(1, 2), (1, 2) = (1, 2), (select max(kilos) from coop.harvests)'),
  pasted("select to_char(picked_on, 'YYYY \"week\" IW'), age(picked_on, date '2020-01-01') from coop.harvests"),
  pasted('select n from generate_series(:from, :until, 5) as n', 'from', 'until'),
  pasted("select w.word, w.place from unnest(string_to_array('a b c', ' ')) with ordinality as w (word, place)"),
  pasted('select region, kilos from coop.yield_by_region(:season) where kilos > :least', 'season', 'least'),
  pasted('select * from coop.member_settlement(season => :season, member => :member)', 'season', 'member'),
  // Limits.
  pasted('select id from coop.harvests order by kilos desc nulls last, id limit :rows offset :first', 'rows', 'first'),
  pasted('select id from coop.harvests order by id fetch first :rows rows with ties', 'rows'),
  pasted('select id from coop.harvests tablesample bernoulli (:percent) repeatable (7)', 'percent'),
  // Ugly ones.
  pasted(
    "select 'it''s :not', \"id\" as \"a :name; --\", E'\\':no\\n', $$:no; 'x'$$, $q$ $$ :no $q$ from coop.harvests where batch <> :batch",
    'batch',
  ),
  pasted('select U&\'d\\0061t\\+000061\', U&"\\0069d" from coop.harvests'),
  pasted("select B'101', X'1F', 1e3, .5, 5., 1.5e-3"),
  pasted('select id as "größe", kilos as "вес", batch as "重量" from coop.harvests where grade = :größe', 'größe'),
  pasted('select id as "select", grade as "from" from coop.harvests "where" where "where".kilos > :limit', 'limit'),
  pasted('select ((((((((((((((((((((1))))))))))))))))))))'),
  pasted('select not not not (grade is null) from coop.harvests'),
  pasted('select a.x from (select b.x from (select c.x from (select id as x from coop.harvests where id < :below) c) b) a', 'below'),
  pasted(
    "select 'a' as a, 'b' as b, 'c' as c union all select grade, grade, grade from coop.harvests where grade > ':x' and grade < :x",
    'x',
  ),
  pasted('select id from coop.harvests where kilos > -:least::numeric and id = +:id::int', 'least', 'id'),
  pasted(long, 'rest', 'least'),
];

/** Strings, quoted names, dollar quotes and comments stay; everything between them is given. */
const between = (text: string, change: (part: string) => string): string =>
  text
    .split(
      /(U&'(?:[^']|'')*'|E'(?:[^'\\]|\\.|'')*'|'(?:[^']|'')*'|(?:U&)?"[^"]*"|\$q\$[\s\S]*?\$q\$|\$\$[\s\S]*?\$\$|:[\p{L}_][\p{L}\p{N}_]*)/u,
    )
    .map((part, at) => (at % 2 === 0 ? change(part) : part))
    .join('');

/** Letters of ASCII alone mean the same in either case. */
const upper = (text: string) => text.replaceAll(/[a-z]+/g, (word) => word.toUpperCase());
const mixed = (text: string) =>
  text.replaceAll(/[a-z]+/g, (word) => Array.from(word, (each, at) => (at % 2 === 0 ? each.toUpperCase() : each)).join(''));
const COMMENT = " /* 'open :no /* within ; */ \" */ -- and ' :no $$ ;\n ";

export const DRESSINGS: Readonly<Record<string, (text: string) => string>> = {
  'as it is': (text) => text,
  'in capitals': (text) => between(text, upper),
  'in mixed case': (text) => between(text, mixed),
  'with comments everywhere': (text) => `${COMMENT}${between(text, (part) => part.replaceAll(/\s+/g, () => COMMENT))}${COMMENT}`,
  'with an alias of another script': (text) => between(text, (part) => part.replaceAll(/\bh\b/g, 'жёлудь_ñ')),
};

/** Every statement in every dressing, each text once. */
export const CORPUS: readonly (Pasted & { readonly of: Pasted; readonly dressed: string })[] = STATEMENTS.flatMap((of) => {
  const texts = new Map(
    Object.entries(DRESSINGS)
      .map(([dressed, dress]) => [dress(of.text), dressed])
      .toReversed() as [string, string][],
  );
  return [...texts].map(([text, dressed]) => ({ text, dressed, parameters: of.parameters, of }));
});
