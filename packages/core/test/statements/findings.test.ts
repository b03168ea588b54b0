import { loadModule, parseSync, scanSync } from 'libpg-query';
import type { Problem, TextContext } from '../../src';
import { checkText, date, datetime, decimal, parseWith, text as textType, whole } from '../../src';

/** For each finding, texts that have it and texts that look like it and do not; and what its fix leaves. */

const parse = parseWith({ parse: parseSync, scan: scanSync });
beforeAll(() => loadModule());

const column = (name: string, type: TextContext['tables'][number]['columns'][number]['type'], nullable = false) => ({
  name,
  type,
  nullable,
});
const CONTEXT: TextContext = {
  tables: [
    {
      schema: 'coop',
      name: 'harvests',
      columns: [
        column('id', whole),
        column('apiary_code', textType, true),
        column('kilos', decimal(8, 2), true),
        column('picked_on', date),
        column('weighed_at', datetime),
        column('frames', whole),
        column('grade', textType),
      ],
      keys: [{ columns: ['id'] }],
    },
    {
      schema: 'coop',
      name: 'apiaries',
      columns: [column('code', textType), column('name', textType), column('hives', whole)],
      keys: [{ columns: ['code'] }],
    },
    {
      schema: 'coop',
      name: 'deliveries',
      columns: [column('harvest_id', whole), column('buyer_code', textType, true), column('weight', decimal(8, 2))],
      keys: [],
    },
  ],
  parameters: [
    { name: 'season', type: 'whole number' },
    { name: 'day', type: 'date' },
    { name: 'name', type: 'text' },
    { name: 'least', type: 'decimal' },
  ],
  met: [
    { name: 'season', type: whole },
    { name: 'day', type: date },
    { name: 'name', type: textType },
    { name: 'least', type: whole },
  ],
};

const of = (text: string, context = CONTEXT): readonly Problem[] => checkText(text, parse, context);
const H = 'coop.harvests';

interface Case {
  readonly has: readonly string[];
  readonly hasNot: readonly string[];
}

const CASES: Readonly<Record<string, Case>> = {
  'select-star': {
    has: [
      `select * from ${H}`,
      `select h.* from ${H} h`,
      `select 1, * from ${H} -- all`,
      'with t as (select * from coop.apiaries) select code from t',
      'select a.*, h.id from coop.apiaries a join coop.harvests h on h.apiary_code = a.code',
    ],
    hasNot: [
      `select count(*) from ${H}`,
      `select id from ${H} where exists (select * from coop.apiaries a where a.code = apiary_code)`,
      `select kilos * 2 from ${H}`,
      `select '*' from ${H}`,
      `select id /* * */ from ${H}`,
    ],
  },
  'limit-left': {
    has: [
      `select id from ${H} order by id limit 100`,
      `select id from ${H} limit 10`,
      `SELECT id FROM ${H} ORDER BY 1\nLIMIT 1000`,
      'with t as (select 1 as a) select a from t order by a limit 5',
      `select id from ${H} order by id limit 20 offset 5`,
    ],
    hasNot: [
      `select id from ${H} limit :season`,
      `select id from (select id from ${H} order by id limit 5) t`,
      `select id from ${H} limit all`,
      `select id from ${H} where grade = 'limit 5'`,
      `select id from ${H} limit 0`,
    ],
  },
  'limit-without-order': {
    has: [
      `select id from ${H} limit 5`,
      `select id from (select id from ${H} limit 5) t`,
      `select id from ${H} limit :season`,
      `with t as (select id from ${H} limit 3) select id from t`,
      `select id, (select code from coop.apiaries limit 1) from ${H}`,
    ],
    hasNot: [
      `select id from ${H} order by id limit 5`,
      `select count(*) from ${H} limit 1`,
      `select id from ${H} order by kilos desc, id limit :season`,
      `select id from ${H}`,
      `select max(id) from ${H} limit 1`,
    ],
  },
  'equals-null': {
    has: [
      `select id from ${H} where kilos = null`,
      `select id from ${H} where kilos <> null`,
      `select id from ${H} where kilos != null and id > 1`,
      `select id, kilos = null from ${H}`,
      `select id from ${H} h left join coop.apiaries a on a.code = null`,
    ],
    hasNot: [
      `select id from ${H} where kilos is null`,
      `select id from ${H} where kilos is distinct from null`,
      `select id from ${H} where grade = 'null'`,
      `select null as nothing from ${H}`,
      `select id from ${H} where coalesce(kilos, null) = 1`,
    ],
  },
  'not-in-nullable': {
    has: [
      'select code from coop.apiaries where code not in (select apiary_code from coop.harvests)',
      "select code from coop.apiaries where code not in (select h.apiary_code from coop.harvests h where h.grade = 'A')",
      'select code from coop.apiaries where not code in (select apiary_code from coop.harvests)',
      'select code from coop.apiaries where hives > 1 and code not in (select buyer_code from coop.deliveries)',
      'select code from coop.apiaries where code not in (select apiary_code from coop.harvests group by apiary_code)',
    ],
    hasNot: [
      'select code from coop.apiaries where code in (select apiary_code from coop.harvests)',
      'select id from coop.harvests where apiary_code not in (select code from coop.apiaries)',
      'select code from coop.apiaries where code not in (select apiary_code from coop.harvests where apiary_code is not null)',
      "select code from coop.apiaries where code not in ('A', 'B')",
      'select code from coop.apiaries a where not exists (select 1 from coop.harvests h where h.apiary_code = a.code)',
    ],
  },
  'integer-division': {
    has: [
      `select frames / 2 from ${H}`,
      `select sum(kilos), count(*) / count(distinct grade) from ${H}`,
      `select h.frames/h.id from ${H} h`,
      `select id from ${H} where frames / 10 > 3`,
      `select length(grade) / 2, id from ${H}`,
    ],
    hasNot: [
      `select kilos / 2 from ${H}`,
      `select frames / 2.0 from ${H}`,
      `select frames::numeric / 2 from ${H}`,
      `select '4/2' from ${H}`,
      `select frames * 2 from ${H}`,
    ],
  },
  'between-date-times': {
    has: [
      `select id from ${H} where weighed_at between '2025-04-01' and '2025-09-30'`,
      `select id from ${H} h where h.weighed_at between date '2025-04-01' and '2025-09-30' and id > 5`,
      `select id from ${H} where weighed_at not between '2025-04-01' and '2025-09-30'`,
      `select id from ${H} where id > 5 and weighed_at between '2025-04-01' and '2025-09-30'`,
      `select count(*) filter (where weighed_at between '2025-04-01' and '2025-09-30') from ${H}`,
    ],
    hasNot: [
      `select id from ${H} where picked_on between '2025-04-01' and '2025-09-30'`,
      `select id from ${H} where weighed_at >= '2025-04-01' and weighed_at < '2025-10-01'`,
      `select id from ${H} where weighed_at between '2025-04-01' and '2025-09-30 23:59:59'`,
      `select id from ${H} where frames between 1 and 5`,
      `select id from ${H} where weighed_at::date between '2025-04-01' and '2025-09-30'`,
    ],
  },
  'group-by-repeats': {
    has: [
      `select grade from ${H} group by grade, grade`,
      `select grade from ${H} group by grade, frames, grade`,
      `select h.grade from ${H} h group by h.grade, h.grade`,
      `select grade from ${H} group by frames, frames, grade`,
      `select t.grade from (select grade from ${H} group by grade, grade) t`,
    ],
    hasNot: [
      `select grade from ${H} group by grade, frames`,
      `select grade from ${H} group by 1`,
      `select grade from ${H} group by grade, lower(grade)`,
      `select grade from ${H} group by rollup (grade, frames)`,
      `select grade from ${H} group by grade order by grade, grade`,
    ],
  },
  'count-column': {
    has: [
      `select count(kilos) from ${H}`,
      `select grade, count(h.kilos) as n from ${H} h group by 1`,
      `select count( apiary_code ) from ${H}`,
      `select count(a.code) from ${H} h left join coop.apiaries a on a.code = h.apiary_code`,
      `select id from ${H} group by id having count(kilos) > 1`,
    ],
    hasNot: [
      `select count(*) from ${H}`,
      `select count(id) from ${H}`,
      `select count(distinct kilos) from ${H}`,
      `select sum(kilos) from ${H}`,
      `select 'count(kilos)' from ${H}`,
    ],
  },
  'key-cast': {
    has: [
      `select id from ${H} where id = 5.0`,
      `select id from ${H} where 5.5 < id`,
      `select h.id from ${H} h where h.id = '5'::numeric`,
      `select h.id from ${H} h join coop.deliveries d on h.id = d.weight`,
      `select id from ${H} where id >= 1e2 and grade = 'A'`,
    ],
    hasNot: [
      `select id from ${H} where id = 5`,
      `select id from ${H} where frames = 5.0`,
      `select id from ${H} where kilos = 5.0`,
      `select h.id from ${H} h join coop.deliveries d on h.id = d.harvest_id`,
      `select id from ${H} where id = :season`,
    ],
  },
  'join-without-condition': {
    has: [
      `select h.id from ${H} h, coop.apiaries a`,
      `select h.id from ${H} h, coop.apiaries a where h.id > 5`,
      `select h.id from ${H} h join coop.apiaries a on true`,
      `select h.id from ${H} h, coop.apiaries a, coop.deliveries d where d.harvest_id = h.id`,
      `select id from ${H}, coop.apiaries where grade = 'A'`,
    ],
    hasNot: [
      `select h.id from ${H} h, coop.apiaries a where a.code = h.apiary_code`,
      `select h.id from ${H} h cross join coop.apiaries a`,
      `select h.id from ${H} h cross join lateral (select h.kilos * 2 as twice) l`,
      `select h.id from ${H} h, coop.apiaries a, coop.deliveries d where d.harvest_id = h.id and a.code = h.apiary_code`,
      `select id from ${H}, coop.apiaries where code = apiary_code`,
    ],
  },
  'outer-join-undone': {
    has: [
      `select h.id from ${H} h left join coop.apiaries a on a.code = h.apiary_code where a.name = 'North'`,
      `select h.id from ${H} h left outer join coop.apiaries a on a.code = h.apiary_code where h.id > 1 and a.hives >= 2`,
      `select a.code from ${H} h right join coop.apiaries a on a.code = h.apiary_code where h.grade = 'A'`,
      `select id from ${H} left join coop.apiaries on code = apiary_code where name like 'N%'`,
      `select h.id from ${H} h left join coop.apiaries a on a.code = h.apiary_code where a.name in ('x', 'y')`,
    ],
    hasNot: [
      `select h.id from ${H} h left join coop.apiaries a on a.code = h.apiary_code and a.name = 'North'`,
      `select h.id from ${H} h left join coop.apiaries a on a.code = h.apiary_code where h.grade = 'A'`,
      `select h.id from ${H} h left join coop.apiaries a on a.code = h.apiary_code where a.code is null`,
      `select h.id from ${H} h join coop.apiaries a on a.code = h.apiary_code where a.name = 'North'`,
      `select h.id from ${H} h left join coop.apiaries a on a.code = h.apiary_code where a.name = 'North' or a.name is null`,
    ],
  },
  'alias-hides-column': {
    has: [
      `select lower(grade) as grade, count(*) from ${H} group by grade`,
      `select upper(h.grade) as grade from ${H} h order by grade`,
      `select kilos * 2 as kilos from ${H} order by kilos`,
      `select date_trunc('month', picked_on) as picked_on, count(*) from ${H} group by picked_on`,
      `select coalesce(frames, 0) as frames, id from ${H} order by frames desc, id`,
    ],
    hasNot: [
      `select lower(grade) as small, count(*) from ${H} group by small`,
      `select grade as grade, count(*) from ${H} group by grade`,
      `select lower(grade) as grade from ${H}`,
      `select lower(grade) as grade, count(*) from ${H} group by 1`,
      `select lower(h.grade) as grade from ${H} h order by h.grade`,
    ],
  },
  'parameter-in-quotes': {
    has: [
      `select id from ${H} where grade = ':name'`,
      `select id from ${H} where grade like '%:name%'`,
      `select id from ${H} where grade like ':name%'`,
      `select id from ${H} where picked_on = ':day'`,
      `select ':season' from ${H}`,
    ],
    hasNot: [
      `select id from ${H} where grade = :name`,
      `select id from ${H} where grade = '12:30'`,
      `select id from ${H} where grade = 'at: name'`,
      `select id from ${H} where grade = 'a::b'`,
      `select id from ${H} -- ':name'\n`,
    ],
  },
  'parameter-type': {
    has: [
      `select id from ${H} where id = :least`,
      `select id from ${H} where frames in (:least)`,
      `select id from ${H} where :least > frames`,
      `select id from ${H} where id between 1 and :least`,
      `select frames + :least from ${H}`,
    ],
    hasNot: [
      `select id from ${H} where frames = :season`,
      `select id from ${H} where picked_on = :day`,
      `select id from ${H} where grade = :name`,
      `select id from ${H} where frames = 5`,
      `select ':least of all' from ${H}`,
    ],
  },
};

describe.each(Object.entries(CASES))('%s', (code, { has, hasNot }) => {
  test.each(has)('has it: %s', (text) => {
    const found = of(text).filter((each) => each.code === code);
    expect(found).toHaveLength(1);
    const { position } = found[0]?.place ?? {};
    expect(text.slice(position?.from, position?.to).length).toBeGreaterThan(0);
  });

  test.each(hasNot)('has it not: %s', (text) => {
    expect(of(text).filter((each) => each.code === code || each.severity === 'error')).toEqual([]);
  });

  test.each(has)('mended, it is gone, and the rest is as it was: %s', (text) => {
    const found = of(text).find((each) => each.code === code);
    const { position } = found?.place ?? {};
    if (found?.instead === undefined || !position) return;
    const mended = text.slice(0, position.from) + found.instead + text.slice(position.to);
    const after = of(mended);
    expect(after.filter((each) => each.code === code || each.severity === 'error')).toEqual([]);
    const others = (all: readonly Problem[]) =>
      all.map((each) => each.code).filter((each) => each !== code && each !== 'limit-without-order');
    expect(others(after).every((each) => others(of(text)).includes(each))).toBe(true);
  });
});

test('most findings have a fix that edits the text', () => {
  const mended = Object.entries(CASES).filter(([code, { has }]) =>
    has.some((text) => of(text).find((each) => each.code === code)?.instead !== undefined),
  );
  expect(mended.map(([code]) => code)).toEqual([
    'select-star',
    'limit-left',
    'equals-null',
    'not-in-nullable',
    'integer-division',
    'between-date-times',
    'group-by-repeats',
    'count-column',
    'outer-join-undone',
    'parameter-in-quotes',
  ]);
});

test('places hold behind texts of any script', () => {
  const text = `select 'größe 𝒳', id /* ü */ from ${H} where kilos = null`;
  const [found] = of(text);
  expect(text.slice(found?.place.position?.from, found?.place.position?.to)).toBe('= null');
});

test('a text that cannot be read, or does more than read, is told that and nothing else', () => {
  expect(of(`select * frm ${H} limit 5`).map((each) => each.code)).toEqual(['text-broken']);
  expect(of('delete from coop.harvests').map((each) => each.code)).toEqual(['text-not-reading']);
  expect(of('select * from a; select 1')).toEqual([]);
});
