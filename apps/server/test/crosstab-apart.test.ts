import fc from 'fast-check';
import type { AcrossPlace, Aggregate, Beside, Column, Layout, SheetEntry, Total } from '@cendra/core';
import {
  acrossPlaces,
  acrossValues,
  besideColumn,
  besideType,
  crosstabRelations,
  fittingLayout,
  foundPlaces,
  LINE_KINDS,
  parseDecimal,
  sheetFields,
  whole,
} from '@cendra/core';
import { keptRow, keyed, wireRow } from '../../../packages/core/test/support/wire-rows';
import { stored } from './support/crosstabs';
import { groupsKept, rowsGiven, rowsKept } from './support/engine-relations';
import { Generated } from './support/generated';

/**
 * Figures of generated crosstabs, and of the same groups by SQL that PostgreSQL runs over the same rows: of another engine,
 * from a statement that has nothing of ours.
 */

const measured = new Set(['d2', 'd6', 'w2']);
const sheet: readonly SheetEntry[] = keyed.fields.map(({ id }) => ({ field: id, role: measured.has(id) ? 'measure' : 'attribute' }));
const fields = sheetFields(keyed, sheet, []);

/** Their values stand in the same order everywhere. */
const DOWN = ['b1', 'w1', 'd10'];
const ACROSS = ['day1', 'w2', 'time1'];
const BESIDE: readonly Beside[] = ['share', 'difference', 'change', 'running total', 'rank', 'difference across', 'change across'];

const level = (field: string) => ({ field, descending: false, subtotal: true });
const total = fc.constantFrom<readonly [string, Aggregate]>(
  ['d2', 'sum'],
  ['d6', 'sum'],
  ['w2', 'sum'],
  ['d2', 'average'],
  ['d6', 'least'],
  ['d6', 'greatest'],
  ['t1', 'count'],
  ['t2', 'distinct count'],
);

const allowed = (aggregate: Aggregate) =>
  BESIDE.filter((each) => aggregate === 'sum' || aggregate === 'count' || (each !== 'share' && each !== 'running total'));

const totalled = total.chain(([field, aggregate]) =>
  fc.subarray(allowed(aggregate), { minLength: 1, maxLength: 3 }).map((beside): Total => ({ field, aggregate, beside })),
);

/** Mostly two. */
const oneOrTwo = (of: readonly string[]) =>
  fc
    .tuple(fc.shuffledSubarray([...of], { minLength: 2, maxLength: 2 }), fc.constantFrom(1, 2, 2, 2))
    .map(([two, count]) => two.slice(0, count));

const layouts: fc.Arbitrary<Layout> = fc.record({
  levels: oneOrTwo(DOWN).map((of) => of.map(level)),
  across: oneOrTwo(ACROSS).map((of) => ({ levels: of.map(level), total: true })),
  rows: fc.constant(false),
  grandTotal: fc.constant(true),
  totals: fc.uniqueArray(totalled, { minLength: 1, maxLength: 2, selector: ({ field, aggregate }) => `${field} ${aggregate}` }),
  marks: fc.constant([]),
});

/** Few values of each, so that groups have several rows. */
const row = fc
  .tuple(
    wireRow,
    fc.record({
      b1: fc.constantFrom('true', 'false', null),
      w1: fc.constantFrom('-1', '9223372036854775807', null),
      d10: fc.constantFrom('0.0000000001', '-2.5000000000', null),
      day1: fc.constantFrom('2023-12-31', '2024-02-29', '9999-12-31', null),
      w2: fc.constantFrom('-1', '0', '2', null),
      time1: fc.constantFrom('00:00:00', '23:59:59', null),
    }),
  )
  .map(([any, few]) => ({ ...any, ...few }));

describe('every figure of a crosstab', () => {
  let generated: Generated;
  beforeAll(async () => (generated = await Generated.open()));
  afterAll(() => generated.close());

  test('and what stands beside it equals SQL run apart', async () => {
    const compared = new Map<string, number>();
    const told = (what: string) => compared.set(what, (compared.get(what) ?? 0) + 1);
    await fc.assert(
      fc.asyncProperty(layouts, fc.array(row, { minLength: 60, maxLength: 90 }), async (given, rows) => {
        // A crosstab is made of rows that have landed; SQL is run apart over those.
        await generated.fill(rows.map(keptRow));
        await rowsKept(generated);
        const layout = fittingLayout(given, fields, []);
        const { across, levels, totals } = layout;
        if (!across) throw new Error('something stands across');
        expect(totals).toEqual(given.totals);
        const found = foundPlaces(across, await rowsGiven(generated, acrossValues({ ...layout, across }, fields, stored)));
        const places = acrossPlaces(across, found);
        const made = crosstabRelations({ ...layout, across }, fields, stored, found);
        await groupsKept(generated, made);
        const lines = await rowsGiven(generated, made.lines);
        const apart = await byPostgres(generated, layout, (column, beside) => scaleIn(made.columns, column, beside));
        const seen = new Set<string>();
        for (const line of lines) {
          const at = (id: string) => line[made.columns.findIndex((each) => each.id === id)] ?? null;
          if (LINE_KINDS[Number(at('line_kind'))] !== 'totals') continue;
          const down = levels.slice(0, Number(at('line_level'))).map((_level, index) => at(`key_${index + 1}`));
          places.forEach((place, number) => {
            const own = keyOf(down, place);
            const other = apart.get(own);
            const of = `cell_rows_${number}`;
            expect([own, Number(at(of) ?? 0)]).toEqual([own, Number(other?.get('rows') ?? 0)]);
            if (!other) return;
            seen.add(own);
            totals.forEach(({ aggregate, beside = [] }, index) => {
              const column = number * totals.length + index;
              expect([own, aggregate, same(at(`total_${column}`))]).toEqual([own, aggregate, same(other.get(`total ${index}`))]);
              told(aggregate);
              for (const kind of beside) {
                const figure = at(besideColumn(column, kind));
                expect([own, kind, same(figure)]).toEqual([own, kind, same(other.get(`${kind} ${index}`))]);
                if (figure !== null) told(kind);
              }
            });
          });
        }
        // Nor is any of them left out.
        expect([...apart.keys()].filter((each) => !seen.has(each))).toEqual([]);
      }),
      { numRuns: 80, seed: 18, endOnFailure: true },
    );
    const all = [...compared.values()].reduce((sum, each) => sum + each, 0);
    expect(all).toBeGreaterThan(20_000);
    for (const kind of BESIDE) expect([kind, (compared.get(kind) ?? 0) > 300]).toEqual([kind, true]);
  });
});

/** Decimals a column has, or what stands beside it. */
function scaleIn(columns: readonly Column[], id: string, beside?: Beside): number {
  const own = columns.find((each) => each.id === id)?.type ?? whole;
  const type = beside ? besideType(beside, own) : own;
  return type.kind === 'decimal' ? type.scale : 0;
}

const keyOf = (down: readonly (string | null)[], across: AcrossPlace) => JSON.stringify([down, across.map(({ value }) => value)]);

/** Digits without those that say nothing. */
function same(figure: string | null | undefined): string | null {
  if (figure === null || figure === undefined) return null;
  const read = parseDecimal(figure);
  if (!read) return figure;
  return figure.includes('.') ? figure.replace(/\.?0+$/, '') : figure;
}

type Figures = ReadonlyMap<string, string | null>;

/** All figures by the keys of their groups, down and across, of groups of every level of both. `scaleOf` gives decimals of a column. */
async function byPostgres(
  { client }: Generated,
  layout: Layout,
  scaleOf: (column: string, beside?: Beside) => number,
): Promise<ReadonlyMap<string, Figures>> {
  const [down, beside] = [layout.levels, layout.across?.levels ?? []].map((of) => of.map((each) => each.field)) as [string[], string[]];
  const totals = layout.totals ?? [];
  const list = (...of: readonly string[]) => of.join(', ');
  const sets = (of: readonly string[]) =>
    `grouping sets (${list(...[...of.keys(), of.length].map((count) => `(${list(...of.slice(0, count))})`))})`;
  const depth = (of: readonly string[]) => (of.length === 0 ? '0' : of.map((each) => `1 - grouping(${each})`).join(' + '));
  const alike = (a: string, of: readonly string[]) => of.map((each) => `${a}.${each} is not distinct from cells.${each}`).join(' and ');
  const figures = totals.map(({ field, aggregate }, index) => `${FIGURE[aggregate](field, scaleOf(`total_${index}`))} as total_${index}`);
  const told = totals.flatMap((each, index) =>
    (each.beside ?? []).map((kind) => {
      const made = besideSql(kind, `total_${index}`, down, beside);
      return `round((${made})::numeric, ${scaleOf(`total_${index}`, kind)}) as "${kind} ${index}"`;
    }),
  );
  // Every group down with every place across, for what lies before a figure may be a cell without rows.
  const { rows } = await client.query<Record<string, string | null>>(`
    with cells as (
      select ${list(...down, ...beside, `${depth(down)} as down`, `${depth(beside)} as beside`, 'count(*) as own', ...figures)}
      from trail_rows group by ${sets(down)}, ${sets(beside)}
    ), downs as (select distinct ${list(...down, 'down')} from cells),
    places as (select distinct ${list(...beside, 'beside')} from cells),
    grid as (
      select downs.*, places.*, ${list('own', ...totals.map((_each, index) => `total_${index}`))}
      from downs cross join places left join cells on ${alike('downs', [...down, 'down'])} and ${alike('places', [...beside, 'beside'])}
    ), told as (select *, ${list(...told)} from grid)
    select own as rows, down, beside, ${list(...[...down, ...beside].map((each) => `${each}::text`))},
      ${list(...totals.map((_each, index) => `total_${index} as "total ${index}"`), ...totals.flatMap((each, index) => (each.beside ?? []).map((kind) => `"${kind} ${index}"`)))}
    from told where own is not null`);
  return new Map(
    rows.map((each) => {
      const keys = (of: readonly string[], count: string | null | undefined) =>
        of.slice(0, Number(count)).map((name) => each[name] ?? null);
      const key = JSON.stringify([keys(down, each['down']), keys(beside, each['beside'])]);
      return [key, new Map(Object.entries(each).map(([name, value]) => [name, value === null ? null : String(value)]))];
    }),
  );
}

/** A quotient has as many decimals as what is divided: far more than it is rounded to, so that it is rounded once. */
const WIDE = (sql: string) => `(${sql})::numeric(120, 40)`;

const FIGURE: Readonly<Record<Aggregate, (field: string, scale: number) => string>> = {
  sum: (field) => `sum(${field})`,
  average: (field, scale) => `round(${WIDE(`sum(${field})`)} / count(${field}), ${scale})`,
  least: (field) => `min(${field})`,
  greatest: (field) => `max(${field})`,
  count: (field) => `count(${field})`,
  'distinct count': (field) => `count(distinct ${field})`,
};

/** What stands beside a figure, over the grid of all cells. */
function besideSql(kind: Beside, own: string, down: readonly string[], beside: readonly string[]): string {
  const place = [...beside, 'beside'];
  const group = [...down, 'down'];
  const by = (...of: readonly string[]) => `partition by ${of.join(', ')}`;
  /** For each level its own window: within the group above, in the order of the level's keys. */
  const each = (keys: readonly string[], named: string, make: (above: string, order: string, level: number) => string) =>
    keys.length === 0
      ? 'null'
      : `case ${named} ${keys.map((key, at) => `when ${at + 1} then ${make([...keys.slice(0, at), named].join(', '), `order by ${key}`, at + 1)}`).join(' ')} end`;
  const before = kind.endsWith('across')
    ? each(beside, 'beside', (above, order) => `lag(${own}) over (${by(...group, above)} ${order})`)
    : each(down, 'down', (above, order) => `lag(${own}) over (${by(...place, above)} ${order})`);
  switch (kind) {
    case 'share': {
      const above = each(
        down,
        'down',
        (_above, _order, level) => `max(${own}) filter (where down = ${level - 1}) over (${by(...place, ...down.slice(0, level - 1))})`,
      );
      return `${WIDE(`100 * ${own}`)} / nullif(${above}, 0)`;
    }
    case 'running total':
      return `case when ${own} is not null then ${each(down, 'down', (above, order) => `sum(${own}) over (${by(...place, above)} ${order})`)} end`;
    case 'rank':
      return `case when ${own} is not null then ${each(down, 'down', (above) => `rank() over (${by(...place, above)} order by ${own} desc nulls last)`)} end`;
    case 'difference':
    case 'difference across':
      return `${own} - (${before})`;
    case 'change':
    case 'change across':
      return `${WIDE(`100 * (${own} - (${before}))`)} / nullif(${before}, 0)`;
  }
}
