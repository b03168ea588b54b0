import type { Expression } from '../expressions';
import { evaluate } from '../expressions';
import type { SheetField } from '../sheet';
import type { Value } from '../values';
import { readValue, valueOfWire } from '../values';
import { totalType } from './columns';
import type { Against, Mark } from './layout';
import { letterOf, SIGNS } from './mark-letters';
import { againstOf, averageType, markCondition } from './marks';
import type { Cell, ReadLine } from './read-lines';
import type { ProofColumn, ProofTable } from './shown-table';
import { fieldUnder, noRowsAt, totalAt } from './shown-table';

/**
 * How a marked cell looks; a lettered one also carries its letter, a good or poor one its sign. Of good and poor the first
 * mark that holds is the one, in their order; all others stand together.
 */
export function marksOf(
  line: ReadLine,
  column: ProofColumn,
  table: ProofTable,
): { readonly looks: readonly Mark['look'][]; readonly letters: string } {
  const { marks } = table.layout;
  if (column.beside || (column.further && line.kind === 'row')) return { looks: [], letters: '' };
  const under = fieldUnder(line, column, table);
  const shown = marks.filter(
    (mark, index) => mark.field === under.id && (mark.of === undefined ? line.marked[index] : standsOn(mark, line, column, table)),
  );
  const told = shown.find((mark) => SIGNS[mark.look] !== undefined);
  const together = shown.filter((mark) => mark === told || SIGNS[mark.look] === undefined);
  return {
    looks: together.map(({ look }) => look),
    letters: together.map((mark) => letterOf(mark, marks)).join(''),
  };
}

/** Whether a mark of totals stands on the one under a column: its condition is asked of that value. */
function standsOn(mark: Mark, line: ReadLine, column: ProofColumn, table: ProofTable): boolean {
  const found = line.kind === 'totals' ? totalAt(line, column, table) : undefined;
  if (!found || found.total.aggregate !== mark.of || noRowsAt(line, column)) return false;
  const condition = conditionOf(mark, table.fields);
  const cell = line.total(found.index);
  const read = typeof cell === 'string' ? readValue(totalType(table.fields, found.total), cell) : undefined;
  if (!condition || (cell !== null && !read?.ok)) return false;
  const value = read?.ok ? read.value : null;
  const other = mark.against ? otherFigure(mark, line, found.index, table) : null;
  const of = (id: string) => (id === againstOf(mark) ? other : value);
  return evaluate(condition, { now: 0n, window: () => null, field: of, parameter: () => null, list: () => [] }) === true;
}

/** Asked of every figure in sight, and worked out once. */
const conditions = new WeakMap<Mark, { readonly fields: readonly SheetField[]; readonly condition: Expression | undefined }>();

function conditionOf(mark: Mark, fields: readonly SheetField[]): Expression | undefined {
  const known = conditions.get(mark);
  if (known?.fields === fields) return known.condition;
  const condition = markCondition(mark, fields).expression;
  conditions.set(mark, { fields, condition });
  return condition;
}

/** What a mark on the total at a place compares with: the same total of another field there, or the average of the groups beside it. */
function otherFigure({ against, of }: Mark, line: ReadLine, index: number, { layout: { totals }, fields }: ProofTable): Value {
  const own = totals[index % totals.length];
  if (!own) return null;
  if (against?.of === 'average')
    return valueOfWire(averageType(totalType(fields, own)), textOf(line.beside(index, 'average of the groups')));
  const place = totals.findIndex((each) => each.field === against?.field && each.aggregate === of);
  const other = totals[place];
  return other ? valueOfWire(totalType(fields, other), textOf(line.total(index - (index % totals.length) + place))) : null;
}

/** A figure that was cut or fits no type is compared with nothing. */
const textOf = (cell: Cell): string | null => (typeof cell === 'string' ? cell : null);

/** What the letters behind values mean, one line a letter. */
export const legendOf = ({ layout: { marks }, fields }: ProofTable): readonly string[] =>
  marks.flatMap((mark) => {
    const letter = letterOf(mark, marks);
    return letter === '' ? [] : [`${letter}: ${markWords(mark, fields)}`];
  });

/** When a mark shows, in words. */
export function markWords({ field, of, operator, operands, against }: Mark, fields: readonly SheetField[]): string {
  const label = (id: string) => fields.find((each) => each.id === id)?.label ?? '';
  const others = against ? againstWords({ of, against }, label) : operands.join(', ');
  return [of === undefined ? '' : `${of} of`, label(field), operator, others].join(' ').trim();
}

/** What a mark compares with that is no value, in words; `nameOf` gives those of a field. */
export function againstWords(
  { of, against }: { readonly of: Mark['of'] | undefined; readonly against: Against },
  nameOf: (id: string) => string,
): string {
  if (against.of === 'average') return of === undefined ? 'the average of its group' : 'the average of the groups';
  return `${of === undefined ? '' : `the ${of} of `}${nameOf(against.field)}`;
}
