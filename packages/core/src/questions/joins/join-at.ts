import type { Expression } from '../../expressions';
import { compare, isNull, not, wholeLiteral } from '../../expressions';
import type { FieldType } from '../../fields';
import { decimal, MAX_DIGITS, whole } from '../../fields';
import type { EqualValues } from '../../joins';
import { relationArriving } from '../../planning';
import { ProblemError, refuse } from '../../problem';
import type { CalculatedColumn, Column, Relation } from '../../sql';
import { calculatedColumn, valueOf } from '../../sql';
import type { CheckedOf, JoinStep } from '../../steps';
import { checkedOf, kindOf, partnerRows } from '../../steps';
import { Budget } from '../../expressions';
import { checkedStep } from '../../trail';
import type { QuestionContext } from '../question';

/** A join as questions about it see it: its inputs, the second one's fields under the ids they have behind it. */
export interface JoinAt {
  readonly checked: CheckedOf<'join'>;
  readonly left: Relation;
  readonly right: Relation;
}

/** Parts of the step that a question tries instead of those it has. */
export type JoinTried = Partial<Pick<JoinStep, 'pairs' | 'one' | 'everyPair'>>;

/** Throws a ProblemError where the step is no join, an input cannot run, or a pair is wrong. */
export function joinAt({ trail, binding }: QuestionContext, stepId: string, tried: JoinTried = {}): JoinAt {
  const known = checkedOf('join', checkedStep(trail, stepId));
  if (!known) return refuse('step-gone', 'This join is not in the dataset.', { step: stepId });
  const left = relationArriving(trail, stepId, binding, 0);
  const arriving = relationArriving(trail, stepId, binding, 1);
  const { definition, catalogue } = trail;
  const { parameters, calendar } = definition;
  const step: JoinStep = { ...known.step, ...tried };
  const found = kindOf(step).check(step, known.arriving, { parameters, calendar, catalogue, budget: new Budget() });
  const checked: CheckedOf<'join'> = { ...known, ...found, checked: found.checked as CheckedOf<'join'>['checked'], step };
  const wrong = checked.checked.pairs.flatMap((each) => each.problems.filter(({ severity }) => severity === 'error'));
  if (wrong.length > 0) throw new ProblemError(wrong);
  return { checked, left, right: partnerRows(checked, arriving) };
}

/** Where pairs ask for nothing but equal values: those of all pairs; undefined where one asks for more. */
export function equalValues({ checked }: JoinAt): readonly EqualValues[] | undefined {
  const { pairs } = checked.checked;
  const all = pairs.flatMap((each) => each.equal ?? []);
  return pairs.length > 0 && pairs.every((each) => each.equal !== undefined) ? all : undefined;
}

/** Rows by some values, with how many there are of each. */
export function countedBy(input: Relation, keys: readonly CalculatedColumn[], count: string): Relation {
  const grouped: Relation = { node: 'group', input, keys, counts: [{ id: count }] };
  // Without keys there is a group also of no rows.
  return keys.length > 0 ? grouped : { node: 'filter', input: grouped, condition: compare('>', countOf(count), wholeLiteral(0)) };
}

export const countOf = (id: string): Expression => valueOf({ id, type: whole });
export const present = (of: Expression): Expression => not(isNull(of));

/** Counts may multiply beyond what a whole number holds. */
export const LARGE: FieldType = decimal(MAX_DIGITS, 0);
/** Of partners there are no more than rows; with as many rows again they still multiply within 38 digits. */
export const partnersColumn = (id: string): Column => ({ id, name: id, type: decimal(18, 0) });
export const large = (id: string): Column => ({ id, name: id, type: LARGE });

export const keyColumns = (values: readonly Expression[], name: string): readonly CalculatedColumn[] =>
  values.map((each, at) => calculatedColumn(`${name} ${at + 1}`, each));
