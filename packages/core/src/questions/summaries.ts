import type { Expression, ExpressionText } from '../expressions';
import { all, blanksAsNull, checkCondition, checkExpression, compare, isNull, not, when, wholeLiteral } from '../expressions';
import { whole } from '../fields';
import { relationArriving } from '../planning';
import { ProblemError, refuse } from '../problem';
import type { CalculatedColumn, Column, MeasureColumn, Relation } from '../sql';
import { calculated, calculatedColumn, columnsOf, valueOf } from '../sql';
import type { CheckedOf, Questioning } from '../steps';
import { checkedOf, firstArriving } from '../steps';
import { checkedStep } from '../trail';
import type { QuestionContext } from './question';

/** The three ways to count, each with its figure: of all rows that arrive, or among those where a condition holds. */
export interface Counted {
  readonly rows: string;
  /** Rows with a value. */
  readonly filled: string;
  readonly different: string;
}

function summaryAt({ trail }: QuestionContext, step: string): CheckedOf<'summarise'> {
  const summary = checkedOf('summarise', checkedStep(trail, step));
  return summary ?? refuse('step-gone', 'This summary is not in the dataset.', { step });
}

/** Counts an expression in the rows that arrive at a summary. Throws a ProblemError where it has errors. */
export function* countThree(context: QuestionContext, step: string, of: ExpressionText, among: ExpressionText): Questioning<Counted> {
  const summary = summaryAt(context, step);
  const { parameters, calendar } = context.trail.definition;
  const scope = { parameters, calendar, schema: firstArriving(summary).schema, withoutOtherRows: 'A summary looks at one row at a time.' };
  const read = (text: ExpressionText, check: typeof checkExpression): Expression => {
    const { expression, problems } = check(text.text, { ...scope, refs: text.refs });
    if (!expression) throw new ProblemError(problems);
    return blanksAsNull(expression, context.binding.blanks);
  };
  const input = relationArriving(context.trail, step, context.binding);
  const some: Relation = among.text.trim() === '' ? input : { node: 'filter', input, condition: read(among, checkCondition) };
  const value = calculatedColumn('value', read(of, checkExpression));
  const measure = (aggregate: 'count' | 'distinct count'): MeasureColumn => ({
    ...named(aggregate),
    aggregate,
    of: valueOf(value),
  });
  const counts: Relation = {
    node: 'group',
    input: calculated(some, [value], undefined),
    keys: [],
    counts: [{ id: 'rows' }],
    measures: [measure('count'), measure('distinct count')],
  };
  const [[rows, filled, different] = []] = yield { relation: counts, columns: columnsOf(counts) };
  return { rows: rows ?? '0', filled: filled ?? '0', different: different ?? '0' };
}

const named = (id: string): Column => ({ id, name: id, type: whole });

/** A key whose every value belongs to one value of another: a district lies within a region. */
export interface Nested {
  readonly inner: string;
  readonly outer: string;
}

/** Keys beyond these are not looked at. */
const MOST_KEYS = 8;

/** Which keys of a summary lie within which others, checked on all rows that arrive. */
export function* nestedKeys(context: QuestionContext, step: string): Questioning<readonly Nested[]> {
  const summary = summaryAt(context, step);
  const keys = summary.checked.keys
    .flatMap(({ key, expression }): readonly CalculatedColumn[] =>
      expression
        ? [{ id: key.id, name: key.name, type: expression.type, expression: blanksAsNull(expression, context.binding.blanks) }]
        : [],
    )
    .slice(0, MOST_KEYS);
  if (keys.length < 2) return [];
  const made = calculated(relationArriving(context.trail, step, context.binding), keys, undefined);
  const combined: Relation = { node: 'group', input: made, keys: keys.map((each) => ({ ...each, expression: valueOf(each) })), counts: [] };
  const found: Nested[] = [];
  for (const inner of keys) {
    const others = keys.filter((each) => each !== inner);
    const relation = spreadOf(combined, inner, others);
    const [row = []] = yield { relation, columns: columnsOf(relation) };
    const [groups, ...spread] = row;
    // Of one value or none nothing is learned.
    if (Number(groups ?? '0') < 2) continue;
    others.forEach((outer, at) => {
      if (spread[2 * at] === '1' && Number(spread[2 * at + 1] ?? '0') > 1) found.push({ inner: inner.id, outer: outer.id });
    });
  }
  return found.filter(({ inner, outer }) => !found.some((each) => each.inner === outer && each.outer === inner));
}

/** How many values a key has, and for each other one: how many of its values one value of the key meets at most, and how many there are. */
function spreadOf(combined: Relation, inner: CalculatedColumn, others: readonly CalculatedColumn[]): Relation {
  const measured = others.flatMap((each): readonly MeasureColumn[] => [
    { ...named(`${each.id} values`), aggregate: 'distinct count', of: valueOf(each) },
    { ...named(`${each.id} filled`), aggregate: 'count', of: valueOf(each) },
    { ...each, id: `${each.id} one`, aggregate: 'least', of: valueOf(each) },
  ]);
  const known: Relation = { node: 'filter', input: combined, condition: not(isNull(valueOf(inner))) };
  const groups: Relation = {
    node: 'group',
    input: known,
    keys: [{ ...inner, expression: valueOf(inner) }],
    counts: [{ id: 'rows' }],
    measures: measured,
  };
  const at = (id: string) => valueOf(named(id));
  // A value that stands with another one and with null too lies within neither.
  const spread = others.map((each) => {
    const partly = all(compare('>', at(`${each.id} filled`), wholeLiteral(0)), compare('<', at(`${each.id} filled`), at('rows')));
    return calculatedColumn(`${each.id} spread`, when(partly, wholeLiteral(2), at(`${each.id} values`)));
  });
  return {
    node: 'group',
    input: { node: 'calculate', input: groups, fields: spread },
    keys: [],
    counts: [{ id: 'groups' }],
    measures: others.flatMap((each, index): readonly MeasureColumn[] => [
      { ...named(`${each.id} most`), aggregate: 'greatest', of: valueOf(spread[index] as CalculatedColumn) },
      { ...named(`${each.id} all`), aggregate: 'distinct count', of: valueOf({ id: `${each.id} one`, type: each.type }) },
    ]),
  };
}
