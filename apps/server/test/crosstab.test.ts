import fc from 'fast-check';
import type { AcrossPlace, Aggregate, Beside, Edit } from '@cendra/core';
import { acrossPlaces, acrossValues, besideColumn, crosstabRelations, foundPlaces, LINE_KINDS } from '@cendra/core';
import { wireRow } from '../../../packages/core/test/support/wire-rows';
import type { DatasetBody } from './support/cendra';
import { withSuperuser } from './support/cluster';
import type { Fitting } from './support/crosstabs';
import { isIn, landedAcross, layouts, stored } from './support/crosstabs';
import { groupsKept, rowsGiven } from './support/engine-relations';
import { datasetOf, edit, fieldOf } from './support/datasets';
import { Generated } from './support/generated';
import type { NaiveLine } from './support/naive-proof';
import { naiveLines, REST } from './support/naive-proof';
import { fields, headsAt } from './support/proof-lines';
import { proofOf, started } from './support/proofs';

/** A line with its figures by column: those of each value across, then those over all of them. */
interface Line {
  readonly kind: string;
  readonly level: number | null;
  readonly rows: number | null;
  /** Which of the totals the line has, where each has one of its own. */
  readonly measure: number | null;
  readonly keys: readonly (string | null)[];
  readonly heads: readonly (string | null)[];
  readonly figures: readonly (readonly (string | null)[])[];
  /** How many rows each column has; of a header nothing is said. */
  readonly cellRows: readonly (number | null)[];
}

describe('the lines of a crosstab', () => {
  let generated: Generated;
  beforeAll(async () => (generated = await Generated.open()));
  afterAll(() => generated.close());

  async function engineLines(layout: Fitting, found: readonly AcrossPlace[], places: number): Promise<readonly Line[]> {
    const made = crosstabRelations(layout, fields, stored, found);
    await groupsKept(generated, made);
    return (await rowsGiven(generated, made.lines)).map((row) => {
      const at = (id: string) => row[made.columns.findIndex((each) => each.id === id)] ?? null;
      const number = (id: string) => (at(id) === null ? null : Number(at(id)));
      // No rows at all are none.
      const rowsOf = (place: number) => number(`cell_rows_${place}`) || null;
      return {
        kind: LINE_KINDS[Number(at('line_kind'))] ?? 'row',
        level: number('line_level'),
        rows: number('line_rows'),
        measure: number('line_measure'),
        keys: layout.levels.map((_level, index) => (at(`rest_${index + 1}`) === 'true' ? REST : at(`key_${index + 1}`))),
        heads: headsAt(layout, number('line_level') ?? 0, at),
        figures: Array.from({ length: places }, (_each, place) =>
          layout.totals.map((_total, index) => (rowsOf(place) === null ? null : at(`total_${place * layout.totals.length + index}`))),
        ),
        cellRows: Array.from({ length: places }, (_each, place) => rowsOf(place)),
      };
    });
  }

  test('are, column by column, those of a proof of the rows of that column alone, totals over columns among them', async () => {
    let seen = 0;
    let over = 0;
    await fc.assert(
      fc.asyncProperty(layouts, fc.array(wireRow, { maxLength: 14 }), async (asked, wireRows) => {
        const { layout, rows, places, found } = await landedAcross(generated, asked, wireRows);
        expect(acrossPlaces(layout.across, found)).toEqual(places);
        expect(foundPlaces(layout.across, await rowsGiven(generated, acrossValues(layout, fields, stored)))).toEqual(found);
        const { across: _across, ...plain } = layout;
        const whole = naiveLines(plain, fields, rows);
        // Which groups have totals is told by all rows, not by those of a column.
        const told = { ...plain, levels: plain.levels.map(({ ofSeveral: _several, ...level }) => ({ ...level, subtotal: true })) };
        const parts = places.map((place) => {
          const own = rows.filter((each) => isIn(each, place, layout, places));
          return naiveLines(told, fields, own, rows);
        });
        const expected = whole.flatMap((line): readonly Line[] =>
          eachMeasure(layout, {
            kind: line.kind,
            level: line.level,
            rows: line.rows,
            measure: null,
            keys: line.keys,
            heads: line.heads,
            figures: parts.map((part) => figuresOf(part, line, layout)),
            cellRows: parts.map((part) => rowsIn(part, line)),
          }),
        );
        seen += found.length;
        over += places.filter((each) => each.length > 0 && each.length < layout.across.levels.length).length;
        expect(await engineLines(layout, found, places.length)).toEqual(expected);
      }),
      { numRuns: 80, seed: 18 },
    );
    expect(seen).toBeGreaterThan(200);
    expect(over).toBeGreaterThan(10);
  });
});

/** Where totals stand below one another: a line of each, which has no other. */
function eachMeasure(layout: Fitting, line: Line): readonly Line[] {
  const { totals, across } = layout;
  if (line.kind === 'header' || !across.below || totals.length < 2) return [line];
  return totals.map((_total, measure) => ({
    ...line,
    measure,
    figures: line.figures.map((of) => of.map((figure, at) => (at === measure ? figure : null))),
  }));
}

const alike = (a: NaiveLine, b: NaiveLine) => a.kind === b.kind && a.level === b.level && JSON.stringify(a.keys) === JSON.stringify(b.keys);

/** The lines a column's own proof has of the same group; none where it has no row of it. */
const linesIn = (part: readonly NaiveLine[], line: NaiveLine) => part.filter((each) => alike(each, line) && each.rows !== 0);

/** What they say. */
function figuresOf(part: readonly NaiveLine[], line: NaiveLine, layout: Fitting): readonly (string | null)[] {
  const [found] = line.kind === 'header' ? [] : linesIn(part, line);
  return layout.totals.map((_total, index) => found?.totals[index] ?? null);
}

const rowsIn = (part: readonly NaiveLine[], line: NaiveLine) => linesIn(part, line)[0]?.rows ?? null;

const GRADES = ['A', 'B', 'C'].map((value) => [{ value }]);

describe('a crosstab over HTTP', () => {
  const server = started();

  async function crosstab(
    across: readonly string[],
    levels: readonly string[],
    totals: readonly (readonly [string, Aggregate])[],
  ): Promise<DatasetBody> {
    const made = await datasetOf(server.analyst, server.source, 'harvests');
    const id = (column: string) => fieldOf(made.definition, column);
    const set = (property: string, from: unknown, to: unknown) => ({ kind: 'set proof', property, from, to }) as Edit;
    const { proof } = made.definition;
    return edit(
      server.analyst,
      made,
      set(
        'levels',
        proof.levels,
        levels.map((each) => ({ field: id(each), descending: false, subtotal: true })),
      ),
      set('across', undefined, {
        levels: across.map((each) => ({ field: id(each), descending: false, subtotal: true })),
        total: true,
      }),
      set(
        'totals',
        proof.totals,
        totals.map(([column, aggregate]) => ({ field: id(column), aggregate })),
      ),
    );
  }

  /** The sum of kilos by floral source down and grade across, with figures beside it. */
  async function withBeside(beside: readonly Beside[]) {
    const made = await crosstab(['grade'], ['floral_source'], [['kilos', 'sum']]);
    const { totals = [] } = made.definition.proof;
    const to = totals.map((each) => ({ ...each, beside }));
    return proofOf(server.analyst, await edit(server.analyst, made, { kind: 'set proof', property: 'totals', from: totals, to }));
  }

  test('says in each column the share and the rank a group has there, as SQL does', async () => {
    const { lines, at } = await withBeside(['share', 'rank', 'running total']);
    const told = await withSuperuser('cooperative', (client) =>
      client.query<string[]>({
        text: `with g as (select floral_source f, grade, sum(kilos) k from coop.harvests group by 1, 2),
                 s as (select f, k, grade, 100 * k / sum(k) over (partition by grade) share, rank() over (partition by grade order by k desc nulls last) r,
                   sum(k) over (partition by grade order by f collate "C" nulls last) run from g)
               select f, round(max(share) filter (where grade = 'B'), 6)::text, max(r) filter (where grade = 'B')::text, max(run) filter (where grade = 'B')::text
               from s group by 1 order by f collate "C" nulls last`,
        rowMode: 'array',
      }),
    );
    const groups = lines.filter((line) => at(line, 'line_level') === '1');
    // The second of the columns per value.
    const beside = (line: readonly (string | null)[], kind: 'share' | 'rank' | 'running total') => at(line, besideColumn(1, kind));
    expect(
      groups.map((line) => [
        at(line, 'key_1'),
        Number(beside(line, 'share')).toFixed(6),
        beside(line, 'rank'),
        beside(line, 'running total'),
      ]),
    ).toEqual(told.rows);
    expect(groups.length).toBeGreaterThan(3);
    expect(beside(lines.at(-1) ?? [], 'share')).toBeNull();
  });

  test('says beside each column what it is against the one before, with what it is of and on everything', async () => {
    const { lines, at } = await withBeside(['difference across', 'change across']);
    const { rows } = await withSuperuser('cooperative', (client) =>
      client.query<(string | null)[]>({
        text: `with g as (select floral_source f, sum(kilos) filter (where grade = 'A') a, sum(kilos) filter (where grade = 'B') b, sum(kilos) filter (where grade = 'C') c
                 from coop.harvests group by rollup (floral_source) order by grouping(floral_source), floral_source collate "C" nulls last)
               select f, (b - a)::text, round(100 * (b - a) / a, 6)::text, (c - b)::text, round(100 * (c - b) / b, 6)::text from g`,
        rowMode: 'array',
      }),
    );
    const six = (cell: string | null) => (cell === null ? null : Number(cell).toFixed(6));
    const told = lines.map((line) => [
      at(line, 'key_1'),
      ...[1, 2].flatMap((place) => [
        at(line, besideColumn(place, 'difference across')),
        six(at(line, besideColumn(place, 'change across'))),
      ]),
    ]);
    expect(told).toEqual(rows);
    // The first column and the totals over all have none before them.
    expect(lines.flatMap((line) => [0, 3].map((place) => at(line, besideColumn(place, 'difference across'))))).toEqual(
      lines.flatMap(() => [null, null]),
    );
  });

  test('has the figures SQL has, by floral source down and grade across', async () => {
    const dataset = await crosstab(
      ['grade'],
      ['floral_source'],
      [
        ['kilos', 'sum'],
        ['moisture', 'average'],
      ],
    );
    const { answer, lines, at } = await proofOf(server.analyst, dataset);
    expect(answer.body.across).toEqual(GRADES);
    const expected = await withSuperuser('cooperative', (client) =>
      client.query<string[]>({
        text: `select floral_source, sum(kilos) filter (where grade = 'A'), sum(kilos) filter (where grade = 'B'), sum(kilos) filter (where grade = 'C'), sum(kilos)
               from coop.harvests group by rollup (floral_source) order by grouping(floral_source), floral_source collate "C" nulls last`,
        rowMode: 'array',
      }),
    );
    expect(lines.map((line) => ['key_1', 'total_0', 'total_2', 'total_4', 'total_6'].map((id) => at(line, id)))).toEqual(expected.rows);
    const means = await withSuperuser('cooperative', (client) =>
      client.query<string[]>({
        text: `select round(avg(moisture) filter (where grade = 'A'), 6), count(moisture) filter (where grade = 'B'), round(avg(moisture), 6)
               from coop.harvests group by rollup (floral_source) order by grouping(floral_source), floral_source collate "C" nulls last`,
        rowMode: 'array',
      }),
    );
    expect(lines.map((line) => [at(line, 'total_1'), at(line, 'values_3'), at(line, 'total_7')])).toEqual(means.rows);
  });

  test('has the figures SQL has of grades within seasons, and of each season over all of them', async () => {
    const made = await crosstab(['picked_on', 'grade'], ['floral_source'], [['kilos', 'sum']]);
    const { across } = made.definition.proof;
    const [years, grades] = across?.levels ?? [];
    const dataset = await edit(server.analyst, made, {
      kind: 'set proof',
      property: 'across',
      from: across,
      to: { levels: [{ ...years, stretch: 'year', totalsFirst: true }, grades], total: true },
    } as Edit);
    const { proof, lines, at } = await proofOf(server.analyst, dataset);
    const { across: found = [] } = proof;
    const { across: asked } = dataset.definition.proof;
    const places = asked ? acrossPlaces(asked, found) : [];
    const expected = await withSuperuser('cooperative', (client) =>
      client.query<{ flower: string | null; year: string; grade: string | null; kilos: string | null }>(
        `select floral_source as flower, date_trunc('year', picked_on)::date::text as year, grade, sum(kilos)::text as kilos
         from coop.harvests group by grouping sets ((1, 2, 3), (1, 2))`,
      ),
    );
    const own = lines.filter((line) => at(line, 'line_level') === '1');
    const figure = (flower: string | null, place: number) => at(own.find((line) => at(line, 'key_1') === flower) ?? [], `total_${place}`);
    for (const { flower, year, grade, kilos } of expected.rows) {
      const place = places.findIndex(([first, second]) => first?.value === year && (second?.value ?? null) === grade);
      expect([flower, year, grade, figure(flower, place)]).toEqual([flower, year, grade, kilos]);
    }
    // Each season begins with what it is all together.
    expect(places[0]?.length).toBe(1);
    expect(expected.rows.length).toBeGreaterThan(30);
  });

  test('more values than can stand beside one another are refused, and say what to do', async () => {
    const { answer } = await proofOf(server.analyst, await crosstab(['id'], ['grade'], [['kilos', 'sum']]));
    expect(answer.status).toBe(422);
    expect(answer.body.problems).toMatchObject([
      {
        code: 'across-many',
        message: 'Id has more than 500 values to stand beside one another.',
        expected: 'a field of fewer values across, or this one down',
      },
    ]);
  });

  test('without levels it is the grand total alone, column by column', async () => {
    const dataset = await crosstab(['grade'], [], [['kilos', 'sum']]);
    const { answer } = await proofOf(server.analyst, dataset);
    expect(answer.body).toMatchObject({ across: GRADES, lines: 1 });
  });

  test('groups and columns stand in the order of a figure, as SQL orders them', async () => {
    const made = await crosstab(['grade'], ['floral_source'], [['kilos', 'sum']]);
    const id = (column: string) => fieldOf(made.definition, column);
    const { proof } = made.definition;
    const by = { field: id('kilos'), aggregate: 'sum' } as const;
    const [level] = proof.levels;
    const dataset = await edit(
      server.analyst,
      made,
      { kind: 'set proof', property: 'levels', from: proof.levels, to: [{ ...level, descending: true, by }] },
      {
        kind: 'set proof',
        property: 'across',
        from: proof.across,
        to: { ...proof.across, levels: proof.across?.levels.map((each) => ({ ...each, by })) },
      } as Edit,
    );
    const { proof: told, lines, at } = await proofOf(server.analyst, dataset);
    const { across } = told;
    const ordered = (field: string, way: string) =>
      withSuperuser('cooperative', async (client) => {
        const text = `select ${field} from coop.harvests group by 1 order by sum(kilos) ${way} nulls last, 1 nulls last`;
        return (await client.query<string[]>({ text, rowMode: 'array' })).rows.map(([value]) => value);
      });
    expect(across?.map(([first]) => first?.value)).toEqual(await ordered('grade', 'asc'));
    expect(lines.slice(0, -1).map((line) => at(line, 'key_1'))).toEqual(await ordered('floral_source', 'desc'));
  });
});
