import { all, compare, wholeLiteral } from '../expressions';
import { whole } from '../fields';
import type { CalculatedColumn, Column, Relation } from '../sql';
import type { SheetField } from '../sheet';
import type { Layout } from './layout';
import { alike, apart, column, field, keysOfRow, LINE } from './columns';
import { isKey } from './across';
import { readRows } from './first-groups';
import type { AcrossPlace } from './places';

/** A line of a proof, of which the rows are wanted that it is made of. */
export interface LineAsked {
  /** Its number among the lines, counted from 0. */
  readonly line: number;
  /** By how many levels its group is made; 0 for everything. */
  readonly level: number;
  /** The values of one of its columns; left out for all of them together. */
  readonly across?: AcrossPlace;
}

/** Texts of those rows are no longer, in characters: one that is as long may have been cut. */
export const BEHIND_TEXT_MOST = 300;

/** The number of a line, as the landed lines have it. */
export const LINE_NUMBER = 'line_number';

/**
 * The rows of a result behind a line, in their order: those of its group, and of the column, where one is named. The
 * lines are landed as `lines` with their numbers, so that a group is told by what is stored of it and not by what was
 * read. One row more than `most` says that there are more.
 */
export function rowsBehind(
  { levels, across }: Pick<Layout, 'levels' | 'across'>,
  fields: readonly SheetField[],
  stored: readonly (Column | CalculatedColumn)[],
  asked: LineAsked,
  most: number,
): Relation {
  const asks = levels.slice(0, asked.level);
  const keys = asks.flatMap((level, at) => keysOfRow(level, at + 1, fields));
  const lines: Relation = {
    node: 'landed',
    handle: 'lines',
    columns: [column(LINE_NUMBER, whole), ...keys.map(({ id, type }) => column(id, type))],
  };
  const line: Relation = { node: 'filter', input: lines, condition: compare('=', field(LINE_NUMBER, whole), wholeLiteral(asked.line)) };
  const rows = readRows({ levels, ...(across ? { across } : {}) }, fields, stored);
  const same = keys.flatMap(({ id, type, expression }) => alike(expression, field(id, type)));
  const inGroup: Relation = keys.length === 0 ? rows : { node: 'join', left: rows, right: line, on: all(...same), keeps: 'pairs' };
  const inColumn = (asked.across ?? []).flatMap((key, index) => {
    const level = across?.levels[index];
    return level
      ? isKey(
          key,
          apart(level, keysOfRow(level, index + 1, fields)).map(({ expression }) => expression),
        )
      : [];
  });
  const found: Relation = inColumn.length > 0 ? { node: 'filter', input: inGroup, condition: all(...inColumn) } : inGroup;
  const order = [{ of: field(LINE.row, whole), descending: false, nullsFirst: false }];
  const first: Relation = { node: 'limit', input: found, count: most + 1, order };
  // What days are grouped by is made of the rows, and no field of theirs.
  const own = new Set(stored.flatMap((each) => ('expression' in each ? [] : [each.id])));
  const shown = fields.filter((each) => !each.forUseOnly && own.has(each.id));
  return { node: 'choose', input: first, columns: shown.map(({ id, name, type }) => ({ id, name, type })) };
}
