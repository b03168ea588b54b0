import { checkClause } from '../criteria';
import type { Condition } from '../criteria';
import type { Expression } from '../expressions';
import { arithmetic, closed, sumType, wholeLiteral } from '../expressions';
import type { Field, FieldType } from '../fields';
import { isNumber } from '../fields';
import type { Parameter } from '../parameters';
import type { Problem } from '../problem';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import { aggregateType } from '../sheet';
import type { Mark, Total } from './layout';
import { operandsOfMark } from './mark-values';

/** What a mark compares with that is no value and no field of the row, as its condition reads it. */
export const againstOf = ({ id }: Pick<Mark, 'id'>): string => `against ${id}`;

/** The type of an average over values of a type, as it is worked out beside them. */
export function averageType(type: FieldType): FieldType {
  const own: Expression = closed({ op: 'field', id: '', type });
  return arithmetic('/', { op: 'field', id: '', type: sumType(own.type) }, wholeLiteral(1)).type;
}

/** Sum and count of values as their average. */
export const averageOf = (sum: Expression, count: Expression): Expression => arithmetic('/', sum, count);

interface Marking {
  readonly expression?: Expression;
  readonly problems: readonly Problem[];
}

/**
 * When a mark shows, as a condition on its field; none while it is unfinished or wrong. With parameters it may ask with one
 * of them, whose value is not there yet. What else it compares with is read as `againstOf` it, but another field of the row.
 */
export function markCondition(mark: Mark, fields: readonly SheetField[], parameters: readonly Parameter[] = []): Marking {
  const found = fields.find((each) => each.id === mark.field);
  if (!found) return { problems: [] };
  // On a total, it is one of the type totals have.
  const own = onTotals(found.field, mark.of);
  const other = mark.against ? otherOf(mark, own, fields) : undefined;
  if (mark.against && !other) return { problems: [unsuited(mark, found, fields)] };
  const condition: Condition = {
    id: mark.id,
    kind: 'condition',
    off: false,
    field: mark.field,
    operator: mark.operator,
    operands: other ? [{ kind: 'field', id: other.id }] : operandsOfMark(mark),
    andNulls: false,
  };
  return checkClause(condition, { schema: { fields: other ? [own, other] : [own] }, parameters });
}

const onTotals = (field: Field, of: Mark['of']): Field => (of === undefined ? field : { ...field, type: aggregateType(of, field.type) });

function otherOf({ id, of, against }: Mark, own: Field, fields: readonly SheetField[]): Field | undefined {
  if (against?.of === 'average')
    return isNumber(own.type) ? { ...own, id: againstOf({ id }), name: 'the average', type: averageType(own.type) } : undefined;
  const found = fields.find((each) => each.id === against?.field && !each.forUseOnly);
  if (!found || (of !== undefined && !found.aggregates.includes(of))) return undefined;
  return of === undefined ? found.field : { ...onTotals(found.field, of), id: againstOf({ id }) };
}

function unsuited({ against, of, field }: Mark, { name }: SheetField, fields: readonly SheetField[]): Problem {
  const place = { field };
  if (against?.of === 'average') return warning('mark-unsuited', `${name} has no average to be compared with.`, place, 'a number');
  const other = fields.find((each) => each.id === against?.field && !each.forUseOnly);
  return other
    ? warning(
        'mark-unsuited',
        `The ${of ?? 'value'} of ${other.name} is not allowed, so nothing is compared with it.`,
        place,
        other.aggregates.join(', '),
      )
    : warning('proof-field-gone', 'The proof compares a mark with a field that is not handed over.', place, 'a field that is handed over');
}

/** What keeps a mark from showing, or from showing as it is meant. */
export function markProblems(
  mark: Mark,
  fields: readonly SheetField[],
  totals: readonly Total[],
  parameters: readonly Parameter[],
): readonly Problem[] {
  const place = { field: mark.field };
  const found = fields.find((each) => each.id === mark.field);
  if (found && mark.of !== undefined && !found.aggregates.includes(mark.of))
    return [
      warning(
        'mark-unsuited',
        `The ${mark.of} of ${found.name} is not allowed, so nothing is marked.`,
        place,
        found.aggregates.join(', ') || 'its values',
      ),
    ];
  const { against, of } = mark;
  const beside = against?.of === 'field' && of !== undefined ? fields.find((each) => each.id === against.field) : undefined;
  const missing =
    beside &&
    of !== undefined &&
    beside.aggregates.includes(of) &&
    !totals.some((each) => each.field === beside.id && each.aggregate === of)
      ? [
          warning(
            'mark-without-figure',
            `The ${of} of ${beside.name} is none of the totals, so nothing is compared with it.`,
            place,
            'a total of it',
          ),
        ]
      : [];
  return [
    ...markCondition(mark, fields, parameters).problems.map((each) => ({ ...each, severity: 'warning' as const, place })),
    ...missing,
  ];
}

/** Of which totals the average of the groups beside each is wanted, by their places among them. */
export const averagedBeside = (marks: readonly Mark[], totals: readonly Total[]): readonly number[] =>
  totals.flatMap(({ field, aggregate }, index) =>
    marks.some((mark) => mark.against?.of === 'average' && mark.field === field && mark.of === aggregate) ? [index] : [],
  );
