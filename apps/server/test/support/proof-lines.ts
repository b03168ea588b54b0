import fc from 'fast-check';
import type { Aggregate, Also, Layout, Parameter, ReadLayout, SheetEntry, SheetField, Value } from '@cendra/core';
import {
  DAY_STRETCHES,
  emptyDefinition,
  evaluate,
  fittingLayout,
  LINE_KINDS,
  ProblemError,
  proofRelations,
  readLayout,
  sheetFields,
  spansAsked,
  spansOf,
  stretchColumns,
  withAlso,
} from '@cendra/core';
import { keyed } from '../../../../packages/core/test/support/wire-rows';
import { groupsKept, rowsGiven, rowsKept } from './engine-relations';
import type { Generated } from './generated';
import type { NaiveLine } from './naive-proof';
import { REST, SEVERAL } from './naive-proof';

/** Layouts of the generated rows, and their lines as the server's statements make them. */

const sheet: readonly SheetEntry[] = keyed.fields.map(({ id, type }) => ({
  field: id,
  role: id !== 'n' && ['whole', 'decimal', 'float'].includes(type.kind) ? 'measure' : 'attribute',
  ...(id === 'd2' ? { addsUp: 'over everything but dates, then last' as const, lastBy: 'day1' } : {}),
}));
export const fields: readonly SheetField[] = sheetFields(keyed, sheet, []);

/** Sums of floating numbers depend on the order they are added in, and those without a fixed scale on how much of it is kept. */
export const totalled = fc
  .constantFrom('w1', 'd2', 'd6', 't1', 'day1', 'b1')
  .chain((field) =>
    fc.constantFrom<Aggregate>(...(fields.find((each) => each.id === field)?.aggregates ?? [])).map((aggregate) => ({ field, aggregate })),
  );
/** Orders that are written, of values that are there or not, and of some that can be none. */
export const listed = fc.uniqueArray(fc.constantFrom('a', "O'Sedge", 'ä', '0', '1', '-1', 'true', 'false', '2024-02-29', 'nowhere'), {
  minLength: 1,
  maxLength: 5,
});
/** Groups there are no rows of: between those there are, or what a parameter offers. */
export const also = fc.constantFrom<Also>({ of: 'span' }, { of: 'choices', parameter: 'offered' });
export const offered: Parameter = {
  id: 'offered',
  name: 'offered',
  type: 'text',
  takes: 'one',
  leftBlank: 'must be filled',
  startsAs: [],
  hint: '',
  choices: { from: 'typed', items: ['a', 'nowhere', '1', '1.50', 'true', '2024-02-29'].map((value) => ({ value, label: value })) },
};

/** What groups are shown by: values that several of them have, and of which one of them has several. */
export const shown = fc.constantFrom('t1', 't2', 'w2', 'day1', 'b1');

/** What is told at the head of a group, whether it is the same in all of it or not. */
export const heads = fc.uniqueArray(fc.constantFrom('t2', 'w2', 'day1', 'b1', 'open'), { minLength: 1, maxLength: 2 });

export const layouts: fc.Arbitrary<Layout> = fc.record(
  {
    levels: fc.uniqueArray(
      fc
        .tuple(
          fc.record(
            {
              field: fc.constantFrom('t1', 'b1', 'day1', 'at1', 'w2', 'd2'),
              stretch: fc.constantFrom(...DAY_STRETCHES),
              shown,
              heads,
              descending: fc.boolean(),
              subtotal: fc.boolean(),
              ofSeveral: fc.constant(true as const),
              totalsFirst: fc.constant(true as const),
              by: totalled,
              listed,
            },
            { requiredKeys: ['field', 'descending', 'subtotal'] },
          ),
          fc.oneof(fc.record({ first: fc.integer({ min: 1, max: 3 }) }), fc.record({ also }), fc.constant({})),
        )
        .map(([level, groups]) => ({ ...level, ...groups })),
      { maxLength: 3, selector: ({ field, stretch }) => `${field} ${stretch ?? ''}` },
    ),
    rows: fc.boolean(),
    grandTotal: fc.boolean(),
    grandTotalFirst: fc.constant(true as const),
    totals: fc.array(totalled, { maxLength: 4 }),
    marks: fc.subarray([
      { id: 'm1', field: 'd2', operator: 'above', operands: ['100'], look: 'boxed' as const },
      { id: 'm2', field: 't1', operator: 'one of', operands: ['a', "O'Sedge"], look: 'strong' as const },
      { id: 'm4', field: 'd2', operator: 'at least', operands: [], against: { of: 'average' as const }, look: 'good' as const },
      { id: 'm5', field: 'd2', operator: 'below', operands: [], against: { of: 'field' as const, field: 'd6' }, look: 'faint' as const },
      { id: 'm6', field: 'open', operator: 'above', operands: ['1.5'], look: 'boxed' as const },
      { id: 'm7', field: 'open', operator: 'one of', operands: ['1', '1.50', '-2'], look: 'good' as const },
      { id: 'm3', field: 'day1', operator: 'is null', operands: [], look: 'faint' as const },
    ]),
  },
  { requiredKeys: ['levels', 'rows', 'grandTotal', 'totals', 'marks'] },
);

const { calendar: CALENDAR } = emptyDefinition('');

/** Rows with the first day of each stretch they are grouped by, worked out in core. */
export function withStretches(read: ReadLayout, rows: readonly ReadonlyMap<string, Value>[]): readonly ReadonlyMap<string, Value>[] {
  const columns = stretchColumns(read, CALENDAR);
  return rows.map((row) => {
    const at = { now: 0n, window: () => null, field: (id: string) => row.get(id) ?? null, parameter: () => null, list: () => [] };
    return new Map([...row, ...columns.map(({ id, expression }) => [id, evaluate(expression, at)] as const)]);
  });
}

/** A layout as it is read, with the groups it has besides those of rows. */
export async function readAs(generated: Generated, given: Layout): Promise<ReadLayout> {
  const read = readLayout(fittingLayout(given, fields, [offered]), fields, CALENDAR);
  await rowsKept(generated);
  const asked = spansAsked(read, storedBy(read));
  const [row = []] = asked ? await rowsGiven(generated, asked) : [];
  const known = {
    parameters: [offered],
    values: {},
    calendar: CALENDAR,
    spans: spansOf(read, row),
    found: () => [],
    columnAt: () => undefined,
  };
  try {
    return withAlso(read, known);
  } catch (caught) {
    // Generated days lie thousands of years apart.
    if (!(caught instanceof ProblemError) || caught.problems[0]?.code !== 'groups-many') throw caught;
    return readAs(generated, { ...given, levels: given.levels.map(({ also: _also, ...level }) => level) });
  }
}

const storedBy = (read: ReadLayout) => [
  ...keyed.fields.map(({ id, name, type }) => ({ id, name, type })),
  ...stretchColumns(read, CALENDAR),
];

/** The statements as the server runs them: the groups are kept, then the lines are made of rows and groups. */
export async function engineCells(generated: Generated, read: ReadLayout) {
  const made = proofRelations(read.layout, read.fields, storedBy(read));
  await rowsKept(generated);
  await groupsKept(generated, made);
  return { columns: made.columns, cells: await rowsGiven(generated, made.lines) };
}

/** What a line says of the fields at the head of its group. */
export const headsAt = ({ levels }: Layout, level: number, at: (id: string) => string | null): readonly (string | null)[] =>
  (levels[level - 1]?.heads ?? []).map((_field, index) =>
    at(`several_${level}_${index}`) === 'true' ? SEVERAL : at(`head_${level}_${index}`),
  );

export async function engineLines(generated: Generated, read: ReadLayout): Promise<readonly NaiveLine[]> {
  const { layout } = read;
  const { columns, cells } = await engineCells(generated, read);
  return cells.map((row) => {
    const at = (id: string) => row[columns.findIndex((each) => each.id === id)] ?? null;
    const number = (id: string) => (at(id) === null ? null : Number(at(id)));
    return {
      kind: LINE_KINDS[Number(at('line_kind'))] ?? 'row',
      level: number('line_level'),
      rows: number('line_rows'),
      row: number('line_row'),
      keys: layout.levels.map((_level, index) => (at(`rest_${index + 1}`) === 'true' ? REST : at(`key_${index + 1}`))),
      shown: layout.levels.map((each, index) => (each.shown === undefined ? null : at(`shown_${index + 1}`))),
      heads: headsAt(layout, number('line_kind') === 1 ? 0 : (number('line_level') ?? 0), at),
      totals: layout.totals.map((_total, index) => at(`total_${index}`)),
      marks: layout.marks.map((_mark, index) => (at(`mark_${index}`) === null ? null : at(`mark_${index}`) === 'true')),
    };
  });
}
