import type { Window } from '../../expressions';
import { LARGE_SUM, SUM_SCALE } from '../../expressions';
import type { FieldType } from '../../fields';
import { isOpen } from '../../fields';
import { WINDOW_NAMES } from '../window-names';

/** A function over other rows. It stands by itself, because inside a select of its own it would see other rows. */
export function windowSql(node: Window, of: readonly string[], over: string): string {
  const [value = ''] = of;
  const name = WINDOW_NAMES[node.name];
  switch (node.name) {
    case 'countRows':
      return `count(*) over ${over}`;
    case 'lag':
    case 'lead':
      return `${name}(${[value, node.step ?? 1, ...of.slice(1)].join(', ')}) over ${over}`;
    case 'min':
    case 'max':
      return `${name}(${node.type.kind === 'text' ? `${value} collate "C"` : value}) over ${over}`;
    case 'sum':
      return node.type.kind === 'float'
        ? floatingSum(value, over)
        : fittingSum(node.type, node.of[0]?.type ?? node.type, value, ` over ${over}`);
    default:
      return `${name}(${of.join(', ')}) over ${over}`;
  }
}

/** PostgreSQL raises where floating sums overflow or products come too near to zero; large ones are added scaled down. */
function floatingSum(value: string, over: string): string {
  const plain = `sum(case when abs(${value}) < ${LARGE_SUM} then ${value} end) over ${over}`;
  const scaled = `sum(case when abs(${value}) >= 1e-200 then ${value} * ${SUM_SCALE} else 0 * ${value} end) over ${over}`;
  const largest = `max(abs(${value})) over ${over}`;
  const fits = `abs(${scaled}) <= ${Number.MAX_VALUE * SUM_SCALE}`;
  return `case when ${largest} < ${LARGE_SUM} then ${plain} when ${fits} then ${scaled} / ${SUM_SCALE} end`;
}

/** The sum of a group. */
export const sumSql = (type: FieldType, of: FieldType, sql: string, among: string): string =>
  type.kind === 'float' ? `sum(${sql})${among}` : fittingSum(type, of, sql, among);

/** An exact sum, rounded once; beyond 38 digits it fits no type of ours and is null. Written twice, it is computed once: PostgreSQL recognises it. */
function fittingSum(type: FieldType, of: FieldType, sql: string, among: string): string {
  const scale = type.kind === 'decimal' ? type.scale : 0;
  const exact = `sum(${of.kind === 'whole' ? `${sql}::numeric` : sql})${among}`;
  const sum = isOpen(of) ? `round(${exact}, ${scale})` : exact;
  return `case when abs(${sum}) < 1e${38 - scale} then ${sum} end`;
}
