import type { Aggregate, Format, SheetField, Writer } from '../sheet';
import { addressOf, aggregateType, writerOf } from '../sheet';
import { grouped } from '../values';
import type { Beside, Layout, Level, Total } from './layout';
import type { Cell, ReadLine } from './read-lines';

/** A column of the proof: a field under its label, in its format. */
export interface ProofColumn {
  /** Its own among the columns. */
  readonly key: string;
  readonly field: SheetField;
  /** Of columns per value: its number among the places. */
  readonly place?: number;
  /** Which of a line's totals stands under it. */
  readonly total?: number;
  /** It is of one more aggregate of its field, and rows have nothing in it. */
  readonly further?: true;
  /** It is no figure of its own but stands beside one. */
  readonly beside?: Beside;
  readonly header: string;
  readonly number: boolean;
  /** How many letters can stand behind its values; room is kept behind all of them, so that digits stay in line. */
  readonly letters: number;
  readonly write: Writer;
  /** Of what stands beside totals on a line each: how that of each total is written. */
  readonly writes?: readonly Writer[];
}

/** Everything by which lines are shown, on the screen, on paper and in files alike. */
export interface ProofTable {
  readonly layout: Layout & { readonly totals: readonly Total[] };
  readonly fields: readonly SheetField[];
  readonly columns: readonly ProofColumn[];
  /** Whether lines begin with words: of their group, or of what their totals are. */
  readonly worded: boolean;
  /** The places of columns per value, in words, and how many columns each has; left out where there are none. */
  readonly places?: { readonly words: readonly string[]; readonly over: number };
  /** Heads over them, a line of heads per level across; those of the first stand on top. */
  readonly heads: readonly (readonly ColumnHead[])[];
}

/** A head over so many places, from the first on. */
export interface ColumnHead {
  readonly words: string;
  readonly first: number;
  readonly places: number;
  /** So many columns these have together. */
  readonly columns: number;
}

export const EVERYTHING = 'Everything';

/** The aggregate all totals are of; undefined where they differ. */
export const sameAggregate = ([first, ...others]: readonly Total[]): Aggregate | undefined =>
  others.every((each) => each.aggregate === first?.aggregate) ? first?.aggregate : undefined;

/** A stored value as a report prints it; nothing for null, and a value that fits no type keeps its mark. */
export function cellText(cell: Cell | undefined, write: Writer): string {
  if (cell === null || cell === undefined) return '';
  if (typeof cell === 'string') return write(cell);
  return 'm' in cell ? `! ${cell.m}` : `${cell.t}…`;
}

/** What a line says before its values. */
export function lineWords(line: ReadLine, table: ProofTable): string {
  const { layout, fields, columns, places } = table;
  if (line.kind === 'row') return '';
  const level = layout.levels[line.level - 1];
  const named = typeof line.shown[line.level - 1] === 'string';
  const field = fields.find((each) => each.id === (named ? level?.shown : level?.field));
  const name = line.level === 0 ? EVERYTHING : [groupText(line, line.level, table), ...headWords(line, table)].join(' · ');
  if (line.kind === 'header') return `${field?.label ?? ''}: ${name}`;
  const same = sameAggregate(layout.totals);
  const labelOf = (total: Total) => fields.find((each) => each.id === total.field)?.label ?? '';
  // Those of the fields it is grouped by have no column.
  const apart = layout.totals.flatMap((total, index) =>
    !places && !columns.some((column) => column.field.id === total.field)
      ? [`${same ? '' : `${total.aggregate} `}of ${labelOf(total)} ${cellText(line.total(index), writeTotal(total, fields))}`]
      : [],
  );
  const measure = line.measure === undefined ? undefined : layout.totals[line.measure];
  const said = measure ? `${measure.aggregate} of ${labelOf(measure)}` : places ? undefined : same;
  return [name, ...(said === undefined ? [] : [said]), ...apart].join(', ');
}

/** What the totals of a line are of: rows; of averages the values they are over, which are fewer where some are null. */
export function overWords(line: ReadLine, table: ProofTable): string {
  // Of lines that are of the same rows the first one says of how many.
  if (line.rows === null || (line.measure ?? 0) > 0) return '';
  const [rows, over] = [plural(line.rows, 'row'), averagesOver(line, table)];
  if (over === '') return rows;
  return sameAggregate(table.layout.totals) ? over : `${rows}, averages ${over}`;
}

/**
 * Over how many values the averages of a line are, where that is no other word for its rows; of columns per value each says
 * that of its own.
 */
function averagesOver(line: ReadLine, { layout: { totals }, places }: ProofTable): string {
  const counts = places || line.kind !== 'totals' ? [] : totals.flatMap((_total, index) => line.values(index) ?? []).map(Number);
  if (counts.length === 0) return '';
  const [least, most] = [Math.min(...counts), Math.max(...counts)];
  if (least === Number(line.rows) && sameAggregate(totals) === undefined) return '';
  return `over ${least === most ? plural(String(most), 'value') : `${grouped(least)} to ${plural(String(most), 'value')}`}`;
}

/** What a line begins with, where nothing stands beside it that says over how many values its averages are. */
export function lineLabel(line: ReadLine, table: ProofTable): string {
  const [words, over] = [lineWords(line, table), averagesOver(line, table)];
  if (over === '') return words;
  return sameAggregate(table.layout.totals) ? `${words} ${over}` : `${words}, averages ${over}`;
}

/** Which of a line's totals stands under a column, and at which place among them; undefined where none does. */
export function totalAt(
  line: ReadLine,
  column: ProofColumn,
  { layout }: ProofTable,
): { readonly total: Total; readonly index: number } | undefined {
  const own = line.measure !== undefined && column.place !== undefined ? column.place * layout.totals.length + line.measure : column.total;
  if (own === undefined) return undefined;
  // Columns per value have all totals each, one value after the other.
  const total = layout.totals[own % layout.totals.length];
  return total && { total, index: own };
}

/** The field whose value or total a line has under a column: its own, but where totals stand on a line each. */
export function fieldUnder(line: ReadLine, column: ProofColumn, table: ProofTable): SheetField {
  if (line.measure === undefined) return column.field;
  const total = table.layout.totals[line.measure];
  return table.fields.find((each) => each.id === total?.field) ?? column.field;
}

/** Over how many values the average under a column is; nothing for other totals. */
export function columnOver(line: ReadLine, column: ProofColumn, table: ProofTable): string {
  const found = line.kind === 'totals' && !column.beside ? totalAt(line, column, table) : undefined;
  const values = found?.total.aggregate === 'average' ? line.values(found.index) : null;
  return values === null ? '' : `over ${plural(values, 'value')}`;
}

const plural = (count: string, word: string) => `${grouped(count)} ${word}${count === '1' ? '' : 's'}`;

/** The value a group is told by, as it is read. */
const keyText = (key: Cell, field: SheetField) =>
  key === null
    ? 'without a value'
    : key === ''
      ? 'empty text'
      : cellText(key, writerOf({ type: field.type, role: field.role }, field.format));

const REST = 'the rest together';

/** What stands at the head of a group, on the first line of it: its header, and where none is shown its first totals. */
function headWords(line: ReadLine, { layout, fields }: ProofTable): readonly string[] {
  const beginning = !layout.rows && line.level === layout.levels.length && !line.measure;
  // The rest together is no group of one value of anything.
  if ((line.kind !== 'header' && !beginning) || line.rests[line.level - 1]) return [];
  return (layout.levels[line.level - 1]?.heads ?? []).flatMap((id, index) => {
    const field = fields.find((each) => each.id === id);
    const head = line.heads[index];
    if (!field || !head || (head.value === null && !head.several)) return [];
    return [head.several ? `several of ${field.label}` : `${field.label}: ${keyText(head.value, field)}`];
  });
}

/** What tells the group of a line at a level, counted from 1. */
export function groupText(line: ReadLine, level: number, { layout, fields }: Pick<ProofTable, 'layout' | 'fields'>): string {
  const key = { value: line.keys[level - 1] ?? null, shown: line.shown[level - 1], rest: line.rests[level - 1] };
  return acrossText(key, layout.levels[level - 1], fields);
}

interface KeyCells {
  readonly value: Cell;
  readonly shown?: Cell | undefined;
  readonly rest?: boolean | undefined;
}

/** The same of a group that stands across. One without a name is shown by its value. */
export function acrossText({ value, shown, rest }: KeyCells, level: Level | undefined, fields: readonly SheetField[]): string {
  if (rest) return REST;
  const named = shown !== undefined && shown !== null;
  const field = fields.find((each) => each.id === (named ? level?.shown : level?.field));
  return field ? keyText(named ? shown : value, field) : '';
}

const EMPTY = { blank: '', '0': '0', 'a dash': '–' };

/** A line's text under a column. */
export function columnText(line: ReadLine, column: ProofColumn, table: ProofTable): string {
  const { layout, fields } = table;
  if (line.kind === 'header') return '';
  if (column.beside) return besideText(line, column, column.beside, table);
  if (line.kind === 'row') return column.further ? '' : cellText(line.value(column.field.id), column.write);
  // No rows is another thing than rows without a value, which stay blank.
  if (noRowsAt(line, column)) return EMPTY[layout.across?.empty ?? 'blank'];
  const found = totalAt(line, column, table);
  return found ? cellText(line.total(found.index), writeTotal(found.total, fields)) : '';
}

/** The aggregate totals under a column are of, where that is said neither by what heads the column nor by their line. */
export function aggregateWord(column: ProofColumn, { layout: { rows, totals } }: ProofTable): string {
  const told = column.further || column.beside !== undefined || column.place !== undefined;
  if (told || column.total === undefined || !rows || sameAggregate(totals) !== undefined) return '';
  return totals[column.total]?.aggregate ?? '';
}

/** A line's text under a column as it is read, with that word. */
export function columnWords(line: ReadLine, column: ProofColumn, table: ProofTable): string {
  const [text, word] = [columnText(line, column, table), aggregateWord(column, table)];
  return line.kind !== 'totals' || text === '' || word === '' ? text : `${word} ${text}`;
}

/**
 * Below how many of the first columns a line has nothing, so that the words it begins with may go on there. Rows have no
 * such words, and beside columns per value they stay in sight by themselves.
 */
export function freeColumns(line: ReadLine, table: ProofTable): number {
  if (table.places || line.kind === 'row') return 0;
  if (line.kind === 'header') return table.columns.length;
  const first = table.columns.findIndex((column) => columnWords(line, column, table) !== '');
  return first < 0 ? table.columns.length : first;
}

/** What leads from a row to where the row itself does. */
export const LEADS = 'record';

/** Where a row leads to; undefined for groups and totals. */
export const lineLink = (line: ReadLine, { layout: { link } }: ProofTable): string | undefined =>
  line.kind === 'row' && link !== undefined ? addressOf(link, (id) => line.value(id)) : undefined;

/** Where a row's value under a column leads to; groups and totals, which are of many rows, lead nowhere. */
export function columnLink(line: ReadLine, { field, beside, further, place }: ProofColumn): string | undefined {
  if (line.kind !== 'row' || beside || further || place !== undefined || field.link === undefined) return undefined;
  return typeof line.value(field.id) === 'string' ? addressOf(field.link, (id) => line.value(id)) : undefined;
}

/** What stands beside the line's total under a column; rows have none, and neither has a group without rows there. */
function besideText(line: ReadLine, column: ProofColumn, kind: Beside, table: ProofTable): string {
  const found = line.kind === 'totals' ? totalAt(line, column, table) : undefined;
  if (!found?.total.beside?.includes(kind)) return '';
  return cellText(line.beside(found.index, kind), column.writes?.[line.measure ?? -1] ?? column.write);
}

/** Totals are written in the field's own format; counts, which are none of its values, as whole numbers. */
export function writeTotal({ field: id, aggregate }: Total, fields: readonly SheetField[]): Writer {
  const field = fields.find((each) => each.id === id);
  if (!field || aggregate === 'count' || aggregate === 'distinct count') return grouped;
  const known = totalWriters.get(field) ?? new Map<Aggregate, Writer>();
  const write =
    known.get(aggregate) ??
    writerOf({ type: aggregateType(aggregate, field.type), role: 'measure' }, field.format ?? totalFormat(field, aggregate));
  totalWriters.set(field, known.set(aggregate, write));
  return write;
}

/** Asked of every figure, and made once of each field. */
const totalWriters = new WeakMap<SheetField, Map<Aggregate, Writer>>();

/** An average of whole numbers has decimals to show; a sum of numbers without a fixed scale only those it has. */
function totalFormat({ type }: SheetField, aggregate: Total['aggregate']): Format | undefined {
  if (aggregate === 'sum' && type.kind === 'decimal' && type.open) return { pattern: '#,##0.############' };
  if (aggregate !== 'average') return undefined;
  return { pattern: type.kind === 'decimal' && !type.open ? `#,##0.${'0'.repeat(Math.max(2, Math.min(type.scale, 6)))}` : '#,##0.00' };
}

/** Whether a line has no row in a column per value. */
export const noRowsAt = (line: ReadLine, column: ProofColumn) => column.place !== undefined && line.cellRows(column.place) === null;

/** What a line is to who reads it: totals close a group, and everything; further ones of the group stand under the same rule, and what stands before it closes nothing. */
export type LineLook = 'header' | 'row' | 'totals' | 'further totals' | 'grand total';

export function lookOf(line: ReadLine | undefined, { levels, across, grandTotalFirst }: ProofTable['layout']): LineLook {
  if (line?.kind === 'header') return 'header';
  if (line?.kind !== 'totals') return 'row';
  // With columns per value a group of the last level is a line like a row.
  if (across && line.level > 0 && line.level === levels.length) return 'row';
  if ((line.level === 0 ? grandTotalFirst : levels[line.level - 1]?.totalsFirst) || (line.measure ?? 0) > 0) return 'further totals';
  return line.level === 0 ? 'grand total' : 'totals';
}
