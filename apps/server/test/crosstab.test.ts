import fc from 'fast-check';
import type { Aggregate, Edit, Relation, Value } from '@cendra/core';
import { acrossValues, AGGREGATES, besideColumn, compile, crosstabRelations, duckdb, LINE_KINDS, writeValue } from '@cendra/core';
import { wireRow } from '../../../packages/core/test/support/generate';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { withSuperuser } from './support/cluster';
import type { Fitting } from './support/crosstabs';
import { landedAcross, layouts, same, stored } from './support/crosstabs';
import { datasetOf, demoSource, edit, fieldOf } from './support/datasets';
import { Generated } from './support/generated';
import type { NaiveLine } from './support/naive-proof';
import { naiveLines } from './support/naive-proof';
import { fields } from './support/proof-lines';

const UNBOUND = { bound: new Map(), now: 0n };

/** A line with its figures by column: those of each value across, then those over all of them. */
interface Line {
  readonly kind: string;
  readonly level: number | null;
  readonly rows: number | null;
  readonly aggregate: string | null;
  readonly keys: readonly (string | null)[];
  readonly figures: readonly (readonly (string | null)[])[];
  /** How many rows each column has; of a header nothing is said. */
  readonly cellRows: readonly (number | null)[];
}

describe('the lines of a crosstab', () => {
  let generated: Generated;
  beforeAll(async () => (generated = await Generated.open()));
  afterAll(() => generated.close());

  async function table(name: string, relation: Relation): Promise<void> {
    const { text, values, columns } = compile(relation, duckdb, UNBOUND);
    const names = columns.map(({ id }) => `"${id}"`).join(', ');
    const bound = values.map((each) => each.value as string);
    await generated.engine.run(`create or replace temp table "${name}" as select * from (${text}) as t (${names})`, bound);
  }

  /** The statements as the server runs them. */
  async function engineLines(layout: Fitting, values: readonly Value[]): Promise<readonly Line[]> {
    const made = crosstabRelations(layout, fields, stored, values);
    await table('across', made.across);
    await table('down', made.down);
    await table('groups', made.groups);
    const { text, values: bound } = compile(made.lines, duckdb, UNBOUND);
    const read = await generated.engine.runAndReadAll(
      `select columns(*)::varchar from (${text})`,
      bound.map((each) => each.value as string),
    );
    return (read.getRowsJson() as (string | null)[][]).map((row) => {
      const at = (id: string) => row[made.columns.findIndex((each) => each.id === id)] ?? null;
      const number = (id: string) => (at(id) === null ? null : Number(at(id)));
      const aggregate = number('line_aggregate');
      const columns = values.length + (layout.across.total ? 1 : 0);
      return {
        kind: LINE_KINDS[Number(at('line_kind'))] ?? 'row',
        level: number('line_level'),
        rows: number('line_rows'),
        aggregate: aggregate === null ? null : (AGGREGATES[aggregate] ?? null),
        keys: layout.levels.map((_level, index) => at(`key_${index + 1}`)),
        figures: Array.from({ length: columns }, (_each, place) =>
          layout.totals.map((_total, index) => at(`total_${place * layout.totals.length + index}`)),
        ),
        cellRows: Array.from({ length: columns }, (_each, place) => number(`cell_rows_${place}`)),
      };
    });
  }

  async function engineValues(layout: Fitting): Promise<readonly (string | null)[]> {
    const { text, values } = compile(acrossValues(layout, fields, stored), duckdb, UNBOUND);
    const read = await generated.engine.runAndReadAll(
      `select columns(*)::varchar from (${text})`,
      values.map((each) => each.value as string),
    );
    return (read.getRowsJson() as (string | null)[][]).map(([each]) => each ?? null);
  }

  test('are, column by column, those of a proof of the rows of that column alone, and last those of all rows', async () => {
    let seen = 0;
    await fc.assert(
      fc.asyncProperty(layouts, fc.array(wireRow, { maxLength: 14 }), async (given, wireRows) => {
        const { layout, rows, type, byType, values } = await landedAcross(generated, given, wireRows);
        expect(await engineValues(layout)).toEqual(values.map((each) => (each === null ? null : writeValue(type, each))));
        const { across: _across, ...plain } = layout;
        const whole = naiveLines(plain, fields, rows);
        const parts = values.map((value) =>
          naiveLines(
            plain,
            fields,
            rows.filter((each) => same(each.get(layout.across.field) ?? null, value, byType)),
          ),
        );
        // What stands in lines of their own by aggregate stands in one line here.
        const lines = whole.filter(
          (line, at) => line.kind === 'header' || line.aggregate === (whole.find((each) => alike(each, line)) ?? whole[at])?.aggregate,
        );
        const expected = lines.map((line): Line => ({
          kind: line.kind,
          level: line.level,
          rows: line.rows,
          aggregate: null,
          keys: line.keys,
          figures: [...parts, ...(layout.across.total ? [whole] : [])].map((part) => figuresOf(part, line, layout)),
          cellRows: [...parts, ...(layout.across.total ? [whole] : [])].map((part) => rowsIn(part, line)),
        }));
        seen += values.length;
        expect(await engineLines(layout, values)).toEqual(expected);
      }),
      { numRuns: 60, seed: 18 },
    );
    expect(seen).toBeGreaterThan(150);
  });
});

const alike = (a: NaiveLine, b: NaiveLine) => a.kind === b.kind && a.level === b.level && JSON.stringify(a.keys) === JSON.stringify(b.keys);

/** What a column's own proof says of the same group, each total in the line of its aggregate; a group it has no row of has no figure. */
function figuresOf(part: readonly NaiveLine[], line: NaiveLine, layout: Fitting): readonly (string | null)[] {
  return layout.totals.map(({ aggregate }, index) =>
    line.kind === 'header' ? null : (part.find((each) => alike(each, line) && each.aggregate === aggregate)?.totals[index] ?? null),
  );
}

const rowsIn = (part: readonly NaiveLine[], line: NaiveLine) => part.find((each) => alike(each, line))?.rows ?? null;

describe('a crosstab over HTTP', () => {
  let cendra: Cendra;
  let analyst: Person;
  let source: string;
  beforeAll(async () => {
    cendra = await Cendra.start();
    analyst = await cendra.signIn('analyst');
    source = await demoSource(analyst);
  });
  afterAll(() => cendra.stop());

  interface ProofBody {
    readonly key: string;
    readonly lines: number;
    readonly across?: readonly (string | null)[];
    readonly columns: readonly { readonly id: string }[];
  }

  async function proofOf(dataset: DatasetBody) {
    const done = await run(analyst, dataset, 'full');
    const result = done.result?.id ?? '';
    const answer = await analyst.ask<ProofBody & ProblemBody>('POST', `/results/${result}/proofs`, {
      dataset: dataset.id,
      revision: dataset.revision,
    });
    return { answer, result };
  }

  async function crosstab(
    across: string,
    levels: readonly string[],
    totals: readonly (readonly [string, Aggregate])[],
  ): Promise<DatasetBody> {
    const made = await datasetOf(analyst, source, 'harvests');
    const id = (column: string) => fieldOf(made.definition, column);
    const set = (property: string, from: unknown, to: unknown) => ({ kind: 'set proof', property, from, to }) as Edit;
    const { proof } = made.definition;
    return edit(
      analyst,
      made,
      set(
        'levels',
        proof.levels,
        levels.map((each) => ({ field: id(each), descending: false, subtotal: true })),
      ),
      set('across', undefined, { field: id(across), descending: false, total: true }),
      set(
        'totals',
        proof.totals,
        totals.map(([column, aggregate]) => ({ field: id(column), aggregate })),
      ),
    );
  }

  test('says in each column the share and the rank a group has there, as SQL does', async () => {
    const made = await crosstab('grade', ['floral_source'], [['kilos', 'sum']]);
    const { totals = [] } = made.definition.proof;
    const dataset = await edit(analyst, made, {
      kind: 'set proof',
      property: 'totals',
      from: totals,
      to: totals.map((each) => ({ ...each, beside: ['share', 'rank', 'running total'] })),
    } as Edit);
    const { answer, result } = await proofOf(dataset);
    const { key, columns } = answer.body;
    const lines = await analyst.get<readonly (readonly (string | null)[])[]>(`/results/${result}/proofs/${key}/lines?offset=0&limit=500`);
    const at = (line: readonly (string | null)[], id: string) => line[columns.findIndex((each) => each.id === id) + 1] ?? null;
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

  test('has the figures SQL has, by floral source down and grade across', async () => {
    const dataset = await crosstab(
      'grade',
      ['floral_source'],
      [
        ['kilos', 'sum'],
        ['moisture', 'average'],
      ],
    );
    const { answer, result } = await proofOf(dataset);
    expect(answer.body.across).toEqual(['A', 'B', 'C']);
    const { key, columns } = answer.body;
    const lines = await analyst.get<readonly (readonly (string | null)[])[]>(`/results/${result}/proofs/${key}/lines?offset=0&limit=500`);
    const at = (line: readonly (string | null)[], id: string) => line[columns.findIndex((each) => each.id === id) + 1] ?? null;
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

  test('more values than can stand beside one another are refused, and say what to do', async () => {
    const { answer } = await proofOf(await crosstab('id', ['grade'], [['kilos', 'sum']]));
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
    const dataset = await crosstab('grade', [], [['kilos', 'sum']]);
    const { answer } = await proofOf(dataset);
    expect(answer.body).toMatchObject({ across: ['A', 'B', 'C'], lines: 1 });
  });

  test('groups and columns stand in the order of a figure, as SQL orders them', async () => {
    const made = await crosstab('grade', ['floral_source'], [['kilos', 'sum']]);
    const id = (column: string) => fieldOf(made.definition, column);
    const { proof } = made.definition;
    const by = { field: id('kilos'), aggregate: 'sum' } as const;
    const [level] = proof.levels;
    const dataset = await edit(
      analyst,
      made,
      { kind: 'set proof', property: 'levels', from: proof.levels, to: [{ ...level, descending: true, by }] },
      { kind: 'set proof', property: 'across', from: proof.across, to: { ...proof.across, by } },
    );
    const { answer, result } = await proofOf(dataset);
    const { key, columns, across } = answer.body;
    const ordered = (field: string, way: string) =>
      withSuperuser('cooperative', async (client) => {
        const text = `select ${field} from coop.harvests group by 1 order by sum(kilos) ${way} nulls last, 1 nulls last`;
        return (await client.query<string[]>({ text, rowMode: 'array' })).rows.map(([value]) => value);
      });
    expect(across).toEqual(await ordered('grade', 'asc'));
    const lines = await analyst.get<readonly (readonly (string | null)[])[]>(`/results/${result}/proofs/${key}/lines?offset=0&limit=500`);
    const place = columns.findIndex((each) => each.id === 'key_1') + 1;
    expect(lines.slice(0, -1).map((line) => line[place] ?? null)).toEqual(await ordered('floral_source', 'desc'));
  });
});
