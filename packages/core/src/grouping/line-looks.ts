import type { Expression } from '../expressions';
import { all, cast, closed, compare, not, isNull, wholeLiteral, yes } from '../expressions';
import { isNumber, text, whole } from '../fields';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import { aggregateType } from '../sheet';
import type { Column, Relation } from '../sql';
import { calculatedColumn } from '../sql';
import { column, COUNT, field, FIRST, nothing, SECOND } from './look';
import type { Look, LookRow } from './look';
import { landedRows } from './groups';

/** What is looked at in rows that stand in a fixed order, such as those of a script: shares of a whole, and line numbers. */

/** More rows than a page or two are no lines of a sheet. */
const LINES_MOST = 200;
const SHARE = /(^|_)(percent|percentage|pct|share)(_|$)/i;
const LINE_NUMBER = /^(line|place|row)(_?(no|nr|num|number))?$/i;

const number = (value: number): Expression => wholeLiteral(value);

/** Shares that are parts of a hundred, and together are another number. */
export function sharesOff(fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] {
  return fields.flatMap((told) => {
    if (!SHARE.test(told.name) || !isNumber(told.type) || told.type.kind === 'float') return [];
    const own = closed(field(told.id, told.type));
    const sumType = aggregateType('sum', own.type);
    // A whole of its own is no part.
    const parts = all(not(isNull(own)), compare('>=', own, number(0)), compare('<', own, number(100)));
    const over: Relation = {
      node: 'group',
      input: landedRows(stored),
      keys: [],
      counts: [{ id: 'all' }, { id: COUNT, when: parts }],
      measures: [{ ...column('sum', sumType), aggregate: 'sum', of: own, when: parts }],
    };
    const sum = field('sum', sumType);
    const off = all(
      compare('<=', field('all', whole), number(LINES_MOST)),
      compare('>', field(COUNT, whole), number(1)),
      // Rounded parts may miss a hundred by a little, and other numbers are no parts of one.
      compare('>', sum, number(20)),
      compare('<', sum, number(500)),
      not(all(compare('>=', sum, number(99)), compare('<=', sum, number(101)))),
    );
    const rows: Relation = {
      node: 'calculate',
      input: { node: 'filter', input: over, condition: off },
      kept: [COUNT],
      fields: [calculatedColumn(FIRST, cast(sum, text)), calculatedColumn(SECOND, nothing)],
    };
    const says = ([found]: readonly LookRow[]) =>
      warning(
        'shares-off',
        `The ${found?.count ?? ''} values of ${told.name} come to ${plain(found?.first ?? '')}, not to 100.`,
        { field: told.id },
        'parts of one whole, each divided by it',
      );
    return [{ rows, says } satisfies Look];
  });
}

/** Without the zeros of a scale nobody asked for. */
const plain = (digits: string) => (digits.includes('.') ? digits.replace(/0+$/, '').replace(/\.$/, '') : digits);

/** A number of a line that stands in several of them. */
export function linesTwice(fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] {
  return fields.flatMap((told) => {
    if (!LINE_NUMBER.test(told.name)) return [];
    const own = field(told.id, told.type);
    const numbers: Relation = {
      node: 'group',
      input: { node: 'filter', input: landedRows(stored), condition: not(isNull(own)) },
      keys: [calculatedColumn('number', own)],
      counts: [{ id: 'times' }],
    };
    const few: Relation = { node: 'group', input: landedRows(stored), keys: [], counts: [{ id: 'all' }] };
    const twice: Relation = { node: 'filter', input: numbers, condition: compare('>', field('times', whole), number(1)) };
    const both: Relation = { node: 'join', left: twice, right: few, on: yes, keeps: 'pairs' };
    const within: Relation = { node: 'filter', input: both, condition: compare('<=', field('all', whole), number(LINES_MOST)) };
    const order = [{ of: closed(field('number', told.type)), descending: false, nullsFirst: false }];
    const rows: Relation = {
      node: 'calculate',
      input: { node: 'limit', input: within, count: 1, order },
      kept: [],
      fields: [
        calculatedColumn(COUNT, field('times', whole)),
        calculatedColumn(FIRST, cast(field('number', told.type), text)),
        calculatedColumn(SECOND, nothing),
      ],
    };
    const says = ([found]: readonly LookRow[]) =>
      warning(
        'line-twice',
        `${told.name} ${found?.first ?? ''} stands in ${found?.count ?? ''} rows.`,
        { field: told.id },
        'a number of its own for each line',
      );
    return [{ rows, says } satisfies Look];
  });
}
