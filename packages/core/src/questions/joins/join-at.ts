import type { Expression } from '../../expressions';
import { compare, isNull, not, wholeLiteral } from '../../expressions';
import type { FieldType } from '../../fields';
import { decimal, MAX_DIGITS, whole } from '../../fields';
import type { EqualValues } from '../../joins';
import { relationArriving } from '../../planning';
import { ProblemError, refuse } from '../../problem';
import type { CalculatedColumn, Column, Relation } from '../../sql';
import { calculatedColumn, valueOf } from '../../sql';
import type { Checked, CheckedJoin, JoinStep } from '../../steps';
import { checkedOf, joinRelation, kindOf, partnerRows } from '../../steps';
import { Budget } from '../../expressions';
import { checkedStep } from '../../trail';
import type { QuestionContext } from '../question';

/** A join as questions about it see it: its inputs, the second one's fields under the ids they have behind it. */
export interface JoinAt {
  readonly checked: Checked<JoinStep, CheckedJoin>;
  readonly left: Relation;
  readonly right: Relation;
}

/** A join step, or one partner of a lookup. */
export interface JoinPlace {
  readonly step: string;
  readonly partner?: string | undefined;
}

/** Parts of the step that a question tries instead of those it has. */
export type JoinTried = Partial<Pick<JoinStep, 'pairs' | 'one' | 'everyPair'>>;

/** Throws a ProblemError where the step is no join, an input cannot run, or a pair is wrong. */
export function joinAt(context: QuestionContext, place: JoinPlace, tried: JoinTried = {}): JoinAt {
  const { definition, catalogue } = context.trail;
  const { known, left, right } = inputsAt(context, place);
  const { parameters, calendar } = definition;
  const step: JoinStep = { ...known.step, ...tried };
  const found = kindOf(step).check(step, known.arriving, { parameters, calendar, catalogue, budget: new Budget() });
  const checked = { ...known, ...found, checked: found.checked as CheckedJoin, step };
  const wrong = checked.checked.pairs.flatMap((each) => each.problems.filter(({ severity }) => severity === 'error'));
  if (wrong.length > 0) throw new ProblemError(wrong);
  return { checked, left, right: partnerRows(checked, right) };
}

interface Inputs {
  readonly known: Checked<JoinStep, CheckedJoin>;
  readonly left: Relation;
  readonly right: Relation;
}

function inputsAt({ trail, binding }: QuestionContext, { step, partner }: JoinPlace): Inputs {
  const found = checkedStep(trail, step);
  const join = checkedOf('join', found);
  const arriving = (slot: number) => relationArriving(trail, step, binding, slot);
  if (join) return { known: join, left: arriving(0), right: arriving(1) };
  const joins = checkedOf('lookup', found)?.checked.joins ?? [];
  const at = joins.findIndex((each) => each.step.id === partner);
  const known = joins[at];
  if (!known) return refuse('step-gone', 'This join is not in the dataset.', { step });
  const before = joins.slice(0, at);
  if (before.some((each) => each.blocked)) return refuse('step-blocked', 'A partner looked up before this one has errors.', { step });
  const left = before.reduce((done, each, index) => joinRelation(each, [done, arriving(index + 1)], binding), arriving(0));
  return { known, left, right: arriving(at + 1) };
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
