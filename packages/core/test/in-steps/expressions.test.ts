import { loadModule } from 'libpg-query';
import { saidOf } from '../support/texts-to-say';

/** Expressions of a text beside what they are in ours. */

beforeAll(() => loadModule());

const calculated = (written: string): string => {
  const said = saidOf(`select ${written} as x from coop.harvests h`, ['x']);
  if (said.kind !== 'said') throw new Error(JSON.stringify(said));
  const step = said.steps.find((each) => each.kind === 'calculate');
  return step?.kind === 'calculate' ? (step.fields[0]?.expression.text ?? '') : 'a field';
};

test.each([
  ['h.kilos', 'a field'],
  ['h.kilos * 2 + 1', 'kilos * 2 + 1'],
  ['(h.kilos + 1) * 2', '(kilos + 1) * 2'],
  ['kilos - (moisture - 1)', 'kilos - (moisture - 1)'],
  ['-(kilos)', '-kilos'],
  ['frames / 2', 'cast((frames - mod(frames, 2)) / 2 as integer)'],
  ['frames::numeric / 2', 'cast((frames - mod(frames, 2)) / 2 as integer)'],
  ['kilos / frames', 'kilos / frames'],
  ['frames % 3', 'mod(frames, 3)'],
  ['kilos ^ 2', 'kilos * kilos'],
  ["grade || '-' || frames", "grade || '-' || cast(frames as text)"],
  ['concat(grade, frames)', "join_text('', grade, cast(frames as text))"],
  ["concat_ws(', ', grade, apiary_code)", "join_text(', ', grade, apiary_code)"],
  ['length(grade)', 'char_length(grade)'],
  ["strpos(grade, 'A')", "position('A' in grade)"],
  ['substr(grade, 2)', 'substring(grade from 2)'],
  ['left(grade, 1)', 'substring(grade from 1 for 1)'],
  ["ltrim(grade, '0')", "trim(leading '0' from grade)"],
  ['round(kilos)', 'round(kilos)'],
  ['ceil(kilos)', 'ceiling(kilos)'],
  ['greatest(kilos, moisture)', 'coalesce(greatest(kilos, moisture), kilos, moisture)'],
  ["case when kilos > 5 then 'much' else 'little' end", "case when kilos > 5 then 'much' else 'little' end"],
  ["case grade when 'A' then 1 end", "case grade when 'A' then 1 end"],
  ['kilos::int', 'cast(kilos as integer)'],
  ['kilos::numeric(6, 1)', 'cast(kilos as decimal(6,1))'],
  ['picked_on::date', 'a field'],
  ["'2024-02-29'::date", "date '2024-02-29'"],
  ['extract(year from picked_on)', 'extract(year from picked_on)'],
  ["date_part('isodow', picked_on)", 'extract(weekday from picked_on)'],
  ["date_trunc('month', weighed_at)", 'start_of_month(weighed_at)'],
  ["date_trunc('month', picked_on)::date", 'start_of_month(picked_on)'],
  ["to_char(picked_on, 'YYYY-MM')", "format_date(picked_on, 'yyyy-MM')"],
  ['picked_on + 3', "picked_on + interval '3' day"],
  ['picked_on + frames', "picked_on + frames * interval '1' day"],
  ["picked_on - interval '1 month 2 days'", "picked_on - interval '1' month - interval '2' day"],
  ['current_date - picked_on', 'current_date - picked_on'],
  ['not (checked and kilos > 5)', 'not (checked and kilos > 5)'],
  ['checked is not true', 'checked is not true'],
  ['rank() over (partition by grade order by kilos desc)', 'rank() over (partition by grade order by kilos desc nulls first)'],
  [
    'sum(kilos) over (order by id rows between 2 preceding and current row)',
    'sum(kilos) over (order by id rows between 2 preceding and current row)',
  ],
  ['count(*) over ()', 'count(*) over ()'],
])('%s', (written, ours) => {
  expect(calculated(written)).toBe(ours);
});

/** Parts without a counterpart, with why. */
test.each([
  ["regexp_replace(grade, 'a', 'b')", 'The function regexp_replace has no counterpart.'],
  ['md5(grade)', 'The function md5 has no counterpart.'],
  ['grade collate "C"', 'A collation has no counterpart in expressions.'],
  ['(select max(kilos) from coop.harvests)', 'A query within an expression has no counterpart.'],
  ["weighed_at at time zone 'UTC'", 'The function timezone has no counterpart.'],
  ["to_char(picked_on, 'Day')", 'The pattern “Day” has no counterpart.'],
  ['round(1.5e0)', '1.5e0 is a floating number in expressions, and a decimal in its source.'],
  ['array[grade]', 'An array has no counterpart in expressions.'],
  ['coop.own(grade)', 'The function coop.own has no counterpart.'],
])('%s stays SQL', (written, because) => {
  const text = `select ${written} as x from coop.harvests h where h.grade = 'A'`;
  const asks = saidOf(text, ['x']);
  if (asks.kind !== 'asks') throw new Error(JSON.stringify(asks));
  expect(asks.text).toBe(`select h.grade as grade, ${written} as ${name(asks.text)}\nfrom coop.harvests h`);
  const said = saidOf(text, ['x'], { [asks.text]: ['grade', 'x'] });
  expect(said).toMatchObject({ kind: 'said', stays: [{ words: `${written} as x`, because }] });
});

/** What the part is called where it stays; its name is of no matter behind. */
const name = (sql: string) => / as (\S+)\nfrom/.exec(sql)?.[1] ?? '';
