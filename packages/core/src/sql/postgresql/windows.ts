import type { Window } from '../../expressions';
import { LARGE_SUM, SUM_SCALE } from '../../expressions';
import type { FieldType } from '../../fields';
import { WINDOW_NAMES } from '../window-names';
import { number } from './once';

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
      return node.type.kind === 'float' ? floatingSum(value, over) : exactSum(node, value, over);
    default:
      return `${name}(${of.join(', ')}) over ${over}`;
  }
}

/** Written twice, computed once: PostgreSQL recognises the same function over the same rows. */
function exactSum(node: Window, value: string, over: string): string {
  const of = node.of[0]?.type;
  const sum = `sum(${of ? added(of, value) : value}) over ${over}`;
  const scale = node.type.kind === 'decimal' ? node.type.scale : 0;
  return `case when abs(${sum}) < 1e${38 - scale} then ${sum} end`;
}

/** PostgreSQL raises where floating sums overflow or products come too near to zero; large ones are added scaled down. */
function floatingSum(value: string, over: string): string {
  const plain = `sum(case when abs(${value}) < ${LARGE_SUM} then ${value} end) over ${over}`;
  const scaled = `sum(case when abs(${value}) >= 1e-200 then ${value} * ${SUM_SCALE} else 0 * ${value} end) over ${over}`;
  const largest = `max(abs(${value})) over ${over}`;
  const fits = `abs(${scaled}) <= ${Number.MAX_VALUE * SUM_SCALE}`;
  return `case when ${largest} < ${LARGE_SUM} then ${plain} when ${fits} then ${scaled} / ${SUM_SCALE} end`;
}

/** What is added up: NaN, which a numeric column may hold and no decimal of ours is, counts for nothing, as it does once it has landed. */
const added = (type: FieldType, sql: string) => (type.kind === 'whole' ? `${sql}::numeric` : number(sql));

/** The sum of a group. Beyond 38 digits it fits no type of ours and is null. */
export function sumSql(type: FieldType, of: FieldType, sql: string, among: string): string {
  if (type.kind === 'float') return `sum(${sql})${among}`;
  const sum = `sum(${added(of, sql)})${among}`;
  return `case when abs(${sum}) < 1e${38 - (type.kind === 'decimal' ? type.scale : 0)} then ${sum} end`;
}
