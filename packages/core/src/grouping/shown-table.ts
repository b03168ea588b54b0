import type { Aggregate, Format, SheetField, Writer } from '../sheet';
import { addressOf, AGGREGATES, aggregateType, writerOf } from '../sheet';
import { isNumber } from '../fields';
import { besideType } from './besides';
import { totalType } from './columns';
import type { Beside, Layout, Level, Total } from './layout';
import { BESIDES, isBelow } from './layout';
import { lettersUnder } from './mark-letters';
import type { AcrossKey, AcrossPlace } from './places';
import { acrossPlaces, sameKey } from './places';
import type { Cell, ReadLine } from './read-lines';
import { totalUnder } from './read-lines';
import { grouped } from '../values';

/** A column of the proof: a field under its label, in its format. */
export interface ProofColumn {
  /** Its own among the columns. */
  readonly key: string;
  readonly field: SheetField;
  /** Of columns per value: its number among the places, and which of a line's totals it is. */
  readonly place?: number;
  readonly total?: number;
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

/** `across` are the values that stand beside one another, where the layout has such columns. */
export function proofTable(layout: ProofTable['layout'], fields: readonly SheetField[], across?: readonly AcrossPlace[]): ProofTable {
  if (layout.across && across) return crosstab(layout, fields, across);
  // Rows of the rest have values of their own.
  const grouping = new Set(
    layout.levels.flatMap(({ first, stretch, field, shown = '', heads = [] }) => [
      ...(first === undefined || stretch ? [field, shown] : []),
      ...heads.filter((each) => !layout.totals.some((total) => total.field === each)),
    ]),
  );
  const columns = fields
    .filter((each) => !each.forUseOnly && !grouping.has(each.id) && (layout.rows || layout.totals.some((total) => total.field === each.id)))
    .flatMap((field): readonly ProofColumn[] => {
      const own: ProofColumn = {
        key: field.id,
        field,
        header: headerOf(field),
        number: isNumber(field.type),
        letters: lettersUnder(layout, field.id, undefined),
        write: writerOf({ type: field.type, role: field.role }, field.format),
      };
      const totals = layout.totals.filter((each) => each.field === field.id);
      return [
        own,
        ...BESIDES.filter((kind) => totals.some((each) => each.beside?.includes(kind))).map((kind) =>
          besideOf(own, kind, totals[0], fields),
        ),
      ];
    });
  return { layout, fields, columns, worded: layout.levels.length > 0 || layout.grandTotal || layout.link !== undefined, heads: [] };
}

/** One column per place and total, or per place where totals stand on a line each. */
function crosstab(layout: ProofTable['layout'], fields: readonly SheetField[], found: readonly AcrossPlace[]): ProofTable {
  const { totals, across } = layout;
  const places = across ? acrossPlaces(across, found) : [];
  const below = isBelow(layout);
  const alike = totals.every((each) => each.aggregate === totals[0]?.aggregate);
  const wordsOf = (key: AcrossKey, level: number): string => acrossText(key, across?.levels[level], fields);
  const words = places.map((each) => (each.length === 0 ? EVERYTHING : each.map(wordsOf).join(', ')));
  const besides = BESIDES.filter((kind) => totals.some((each) => each.beside?.includes(kind)));
  const over = below ? 1 + besides.length : totals.reduce((sum, each) => sum + 1 + (each.beside?.length ?? 0), 0);
  const heads = (across?.levels ?? []).map((_level, depth) => headsAt(places, depth, over, wordsOf));
  // A single column below the heads is headed by the last of them.
  const last = below && over === 1 ? heads.at(-1) : undefined;
  const columns = places.flatMap((_each, place) =>
    totals.slice(0, below ? 1 : totals.length).flatMap((total, index): readonly ProofColumn[] => {
      const field = fields.find((each) => each.id === total.field);
      if (!field) return [];
      const header = alike ? headerOf(field) : `${headerOf(field)}, ${total.aggregate}`;
      const own: ProofColumn = {
        key: `${place} ${index}`,
        field,
        place,
        total: place * totals.length + index,
        header: below ? (last?.find(({ first }) => first === place)?.words ?? '') : header,
        number: true,
        letters: Math.max(...(below ? totals : [total]).map((each) => lettersUnder(layout, each.field, each.aggregate))),
        write: writerOf({ type: field.type, role: field.role }, field.format),
      };
      return [
        own,
        ...(below ? besides : (total.beside ?? [])).map((kind) => besideOf(own, kind, total, fields, below ? totals : undefined)),
      ];
    }),
  );
  return { layout, fields, columns, worded: true, places: { words, over }, heads: last ? heads.slice(0, -1) : heads };
}

const EVERYTHING = 'Everything';
/** Over all of a group that stands across. */
const TOGETHER = 'together';

/** The heads of a level across: one over all places of a group, those over all of it among them. */
function headsAt(
  places: readonly AcrossPlace[],
  depth: number,
  over: number,
  wordsOf: (key: AcrossKey, level: number) => string,
): readonly ColumnHead[] {
  const heads: { words: string; first: number; places: number; of: AcrossPlace }[] = [];
  for (const [first, place] of places.entries()) {
    const last = heads.at(-1);
    const key = place[depth];
    const shares = last && key && last.of.length > depth && place.slice(0, depth + 1).every((each, at) => sameKey(each, last.of[at]));
    if (shares) last.places++;
    else {
      const words = key ? wordsOf(key, depth) : place.length < depth ? '' : depth === 0 ? EVERYTHING : TOGETHER;
      heads.push({ words, first, places: 1, of: place });
    }
  }
  return heads.map(({ of: _of, ...head }) => ({ ...head, columns: head.places * over }));
}

/** What columns beside a figure are called. */
export const BESIDE_WORDS: Readonly<Record<Beside, string>> = {
  share: 'share, %',
  difference: 'difference',
  change: 'change, %',
  'running total': 'running total',
  rank: 'rank',
  'difference across': 'to the one before',
  'change across': 'to the one before, %',
};

/** The column behind a figure's own that says what stands beside it. */
function besideOf(
  own: ProofColumn,
  kind: Beside,
  total: Total | undefined,
  fields: readonly SheetField[],
  below?: readonly Total[],
): ProofColumn {
  const write = total ? writeBeside(kind, total, fields) : grouped;
  const writes = below ? { writes: below.map((each) => writeBeside(kind, each, fields)) } : {};
  return { ...own, key: `${own.key} ${kind}`, beside: kind, header: BESIDE_WORDS[kind], number: true, letters: 0, write, ...writes };
}

function writeBeside(kind: Beside, total: Total, fields: readonly SheetField[]): Writer {
  if (kind === 'rank') return grouped;
  const type = besideType(kind, totalType(fields, total));
  const percent = kind === 'share' || kind === 'change' || kind === 'change across';
  return percent ? writerOf({ type, role: 'measure' }, PERCENT) : writeTotal(total, fields);
}

const PERCENT: Format = { pattern: '#,##0.0' };

/** The unit stands in the header, not behind each value. */
const headerOf = ({ label, format }: SheetField) => (format?.unit === undefined ? label : `${label}, ${format.unit}`);

/** A stored value as a report prints it; nothing for null, and a value that fits no type keeps its mark. */
export function cellText(cell: Cell | undefined, write: Writer): string {
  if (cell === null || cell === undefined) return '';
  if (typeof cell === 'string') return write(cell);
  return 'm' in cell ? `! ${cell.m}` : `${cell.t}…`;
}

/** What a line says before its values. */
export function lineWords(line: ReadLine, table: ProofTable): string {
  const { layout, fields, columns } = table;
  if (line.kind === 'row') return '';
  const level = layout.levels[line.level - 1];
  const named = typeof line.shown[line.level - 1] === 'string';
  const field = fields.find((each) => each.id === (named ? level?.shown : level?.field));
  const name = line.level === 0 ? EVERYTHING : [groupText(line, line.level, table), ...headWords(line, table)].join(' · ');
  if (line.kind === 'header') return `${field?.label ?? ''}: ${name}`;
  const apart = layout.totals.flatMap((total, index) =>
    total.aggregate === line.aggregate && !columns.some((column) => column.field.id === total.field)
      ? [`of ${fields.find((each) => each.id === total.field)?.label ?? ''} ${cellText(line.total(index), writeTotal(total, fields))}`]
      : [],
  );
  const measure = line.measure === undefined ? undefined : layout.totals[line.measure];
  const said = measure ? `${measure.aggregate} of ${fields.find((each) => each.id === measure.field)?.label ?? ''}` : line.aggregate;
  return [name, ...(said === undefined ? [] : [said]), ...apart].join(', ');
}

/** What the totals of a line are of: rows; of an average the values it is over, which are fewer where some are null. */
export function overWords(line: ReadLine, { layout: { totals } }: ProofTable): string {
  // Of lines that are of the same rows the first one says of how many.
  if (line.rows === null || (line.measure ?? 0) > 0) return '';
  const counts = line.aggregate === 'average' ? totals.flatMap((_total, index) => line.values(index) ?? []).map(Number) : [];
  if (counts.length === 0) return plural(line.rows, 'row');
  const [least, most] = [Math.min(...counts), Math.max(...counts)];
  return `over ${least === most ? plural(String(most), 'value') : `${grouped(least)} to ${plural(String(most), 'value')}`}`;
}

/** What a line begins with, where nothing stands beside it that says over how many values its averages are. */
export const lineLabel = (line: ReadLine, table: ProofTable): string =>
  line.aggregate === 'average' ? `${lineWords(line, table)} ${overWords(line, table)}` : lineWords(line, table);

/** Which of a line's totals stands under a column, and at which place among them; undefined where none does. */
export function totalAt(
  line: ReadLine,
  column: ProofColumn,
  { layout }: ProofTable,
): { readonly total: Total; readonly index: number } | undefined {
  const own = line.measure !== undefined && column.place !== undefined ? column.place * layout.totals.length + line.measure : column.total;
  const index = own ?? totalUnder(layout.totals, column.field, line.aggregate);
  // Columns per value have all totals each, one value after the other.
  const total = layout.totals[column.total === undefined ? index : index % layout.totals.length];
  return total && { total, index };
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
  const first = AGGREGATES.find((each) => layout.totals.some(({ aggregate }) => aggregate === each));
  const beginning =
    !layout.rows && line.level === layout.levels.length && (line.aggregate === undefined || line.aggregate === first) && !line.measure;
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
  if (line.kind === 'row') return cellText(line.value(column.field.id), column.write);
  // No rows is another thing than rows without a value, which stay blank.
  if (noRowsAt(line, column)) return EMPTY[layout.across?.empty ?? 'blank'];
  const found = totalAt(line, column, table);
  return found ? cellText(line.total(found.index), writeTotal(found.total, fields)) : '';
}

/** What leads from a row to where the row itself does. */
export const LEADS = 'record';

/** Where a row leads to; undefined for groups and totals. */
export const lineLink = (line: ReadLine, { layout: { link } }: ProofTable): string | undefined =>
  line.kind === 'row' && link !== undefined ? addressOf(link, (id) => line.value(id)) : undefined;

/** Where a row's value under a column leads to; groups and totals, which are of many rows, lead nowhere. */
export function columnLink(line: ReadLine, { field, beside, place }: ProofColumn): string | undefined {
  if (line.kind !== 'row' || beside || place !== undefined || field.link === undefined) return undefined;
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

/** What a line is to who reads it: totals close a group, and everything; further aggregates of the group stand under the same rule, and what stands before it closes nothing. */
export type LineLook = 'header' | 'row' | 'totals' | 'further totals' | 'grand total';

export function lookOf(line: ReadLine | undefined, { totals, levels, across, grandTotalFirst }: ProofTable['layout']): LineLook {
  if (line?.kind === 'header') return 'header';
  if (line?.kind !== 'totals') return 'row';
  // With columns per value a group of the last level is a line like a row.
  if (across && line.level > 0 && line.level === levels.length) return 'row';
  if ((line.level === 0 ? grandTotalFirst : levels[line.level - 1]?.totalsFirst) || (line.measure ?? 0) > 0) return 'further totals';
  const first = AGGREGATES.find((each) => totals.some(({ aggregate }) => aggregate === each));
  if (line.aggregate !== undefined && line.aggregate !== first) return 'further totals';
  return line.level === 0 ? 'grand total' : 'totals';
}
