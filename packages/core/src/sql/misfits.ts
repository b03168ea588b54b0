import type { Expression } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import type { Reach } from './dialect';
import type { Relation } from './relation';
import { columnsOf, keptOf, toldOnce } from './relation';

/**
 * A source may keep values that fit no type of ours: NaN in a numeric, days before year 1 or beyond 9999. They leave it as
 * they are, to be shown; in whatever is made of them or asked about them they are null.
 */

/** The columns of a relation that come as they are from a source, and may hold such values. */
export const rawColumns: (relation: Relation) => ReadonlySet<FieldId> = toldOnce((relation) => new Set(rawOfNode(relation)));

function rawOfNode(relation: Relation): readonly FieldId[] {
  switch (relation.node) {
    case 'table':
    case 'text':
      return relation.columns.map(({ id }) => id);
    case 'landed':
    case 'numbers':
    case 'group':
      return [];
    case 'join':
      return [...rawColumns(relation.left), ...rawColumns(relation.right)];
    case 'union':
      return relation.columns.flatMap(({ id }, at) =>
        relation.inputs.some((input) => rawColumns(input).has(columnsOf(input)[at]?.id ?? '')) ? [id] : [],
      );
    case 'calculate': {
      const raw = rawColumns(relation.input);
      const handedOn = relation.fields.filter(({ expression: of }) => of.op === 'field' && raw.has(of.id));
      return [...keptOf(relation).filter(({ id }) => raw.has(id)), ...handedOn].map(({ id }) => id);
    }
    default: {
      const raw = rawColumns(relation.input);
      return columnsOf(relation).flatMap(({ id }) => (raw.has(id) ? [id] : []));
    }
  }
}

/** A column as a value of its type: null where it holds none. */
export const fitting = (sql: string, reach: Reach): string => `(case when ${conditions(sql, reach).join(' and ')} then ${sql} end)`;

/** Whether a column holds no value of its type, be it nothing or something else. */
export const absent = (sql: string, reach: Reach): string => `(${sql} is null or not (${conditions(sql, reach).join(' and ')}))`;

/** Whether a column holds something that is no value of its type. */
export const misfitting = (sql: string, reach: Reach): string => `(${sql} is not null and not (${conditions(sql, reach).join(' and ')}))`;

const conditions = (sql: string, { from, until }: Reach) => [from, until].flatMap((each) => (each ? [`${sql} ${each}`] : []));

/** One end of what a column may hold. */
export interface Bound {
  readonly id: FieldId;
  readonly type: FieldType;
  readonly end: keyof Reach;
}

/**
 * Where a comparison of raw columns as they are holds: the ends that are kept to by that alone, and those that have to be
 * asked for. What a column is compared with, where it is no raw one, is within the limits itself.
 */
export function boundsOf(
  { operator, left, right }: Expression & { op: 'compare' },
  isRaw: (side: Expression) => side is Expression & { op: 'field' },
): { readonly given: readonly Bound[]; readonly missing: readonly Bound[] } {
  const bound = (side: Expression, end: Bound['end']) => (isRaw(side) ? [{ id: side.id, type: side.type, end }] : []);
  const both = (side: Expression) => [...bound(side, 'from'), ...bound(side, 'until')];
  if (operator === '=')
    return isRaw(left) && isRaw(right) ? { given: [], missing: both(left) } : { given: [...both(left), ...both(right)], missing: [] };
  const [less, more] = operator.startsWith('<') ? [left, right] : [right, left];
  return { given: [...bound(less, 'until'), ...bound(more, 'from')], missing: [...bound(less, 'from'), ...bound(more, 'until')] };
}
