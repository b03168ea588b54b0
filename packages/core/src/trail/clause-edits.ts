import type { Clause, Condition, Operand } from '../criteria';
import { clausesWithin, operatorByWord } from '../criteria';
import type { Field } from '../fields';
import type { Parameter } from '../parameters';
import type { CriteriaStep } from '../steps';
import { kindOf } from '../steps';
import type { Mint } from './build';
import { addItem, addParameter, blankCondition, parameterFor, removeItem, removeParameter, setItem } from './build';
import type { Definition } from './definition';
import type { Edit } from './edits';
import { beginning } from '../values';

/** The edit that puts clauses in the place of one, wherever it stands; with none it is removed. Undefined where it is not there. */
export function replaceClause(step: CriteriaStep, id: string, to: readonly Clause[]): Edit | undefined {
  const index = step.clauses.findIndex((each) => clausesWithin(each).some((inner) => inner.id === id));
  const top = step.clauses[index];
  if (!top) return undefined;
  const replaced = replacedIn(top, id, to);
  const [only] = replaced;
  if (replaced.length === 1 && only?.id === top.id) return setItem(step, 'clauses', top, only);
  if (replaced.length === 0) return removeItem(step, 'clauses', top);
  return { kind: 'set step', step: step.id, property: 'clauses', from: step.clauses, to: step.clauses.toSpliced(index, 1, ...replaced) };
}

function replacedIn(clause: Clause, id: string, to: readonly Clause[]): readonly Clause[] {
  if (clause.id === id) return to;
  if (clause.kind !== 'group') return [clause];
  return [{ ...clause, clauses: clause.clauses.flatMap((each) => replacedIn(each, id, to)) }];
}

/** The edit that puts a clause behind another, or at the end of a group. */
export function addClauseAfter(step: CriteriaStep, after: Clause | undefined, clause: Clause): Edit {
  const at = step.clauses.findIndex((each) => each.id === after?.id);
  const nested = after && at < 0 ? replaceClause(step, after.id, [after, clause]) : undefined;
  return nested ?? addItem(step, 'clauses', clause, at < 0 ? step.clauses.length : at + 1);
}

/** The edit that moves a clause among those beside it; undefined at the ends. */
export function moveClause(step: CriteriaStep, id: string, by: 1 | -1): Edit | undefined {
  const group = step.clauses.find((each) => each.kind === 'group' && each.clauses.some((inner) => inner.id === id));
  const siblings = group?.kind === 'group' ? group.clauses : step.clauses;
  const at = siblings.findIndex((each) => each.id === id);
  const moved = siblings[at];
  if (!moved || at + by < 0 || at + by >= siblings.length) return undefined;
  const clauses = siblings.toSpliced(at, 1).toSpliced(at + by, 0, moved);
  return group?.kind === 'group'
    ? setItem(step, 'clauses', group, { ...group, clauses })
    : { kind: 'set step', step: step.id, property: 'clauses', from: step.clauses, to: clauses };
}

/** The edit that puts a clause into a group of its own, with an empty clause behind it to go on with. */
export function groupClause(mint: Mint, step: CriteriaStep, clause: Clause): Edit | undefined {
  const group: Clause = { id: mint(), kind: 'group', off: false, head: 'at least one', clauses: [clause, blankCondition(mint)] };
  return replaceClause(step, clause.id, [group]);
}

/** The edit that puts a group's clauses in its place. */
export function ungroupClauses(step: CriteriaStep, group: Clause): Edit | undefined {
  return group.kind === 'group' ? replaceClause(step, group.id, group.clauses) : undefined;
}

/** The edits that make a parameter of a condition's values, which it then starts as. Undefined where there are no plain values. */
export function valuesToParameter(
  mint: Mint,
  definition: Definition,
  step: CriteriaStep,
  clause: Condition,
  field: Field,
): readonly Edit[] | undefined {
  const values = clause.operands.flatMap((each) => (each.kind === 'value' ? [each.text] : []));
  if (values.length === 0 || values.length < clause.operands.length || operatorByWord(clause.operator)?.takes === 'none') return undefined;
  const parameter: Parameter = { ...parameterFor(mint, freeName(field.name, definition), field, clause.operator), startsAs: values };
  const asked = replaceClause(step, clause.id, [{ ...clause, operands: [{ kind: 'parameter', id: parameter.id }] }]);
  return asked && [addParameter(definition, parameter), asked];
}

/** The edits that put values in the place of a condition's parameter; a parameter nobody else uses goes with it. */
export function parameterToValues(
  definition: Definition,
  step: CriteriaStep,
  clause: Condition,
  values: readonly string[],
): readonly Edit[] | undefined {
  const [asked] = clause.operands;
  const parameter = definition.parameters.find((each) => asked?.kind === 'parameter' && each.id === asked.id);
  if (!parameter) return undefined;
  const operands = values.map((text): Operand => ({ kind: 'value', text }));
  const changed = replaceClause(step, clause.id, [{ ...clause, operands }]);
  if (!changed) return undefined;
  const uses = definition.steps
    .flatMap((each) => kindOf(each).uses(each, definition.parameters))
    .filter((each) => each.kind === 'parameter' && each.id === parameter.id);
  const narrows = definition.parameters.some(
    ({ choices }) => choices && choices.from !== 'typed' && choices.narrowedBy.some((each) => each.parameter === parameter.id),
  );
  return uses.length > 1 || narrows ? [changed] : [changed, removeParameter(definition, parameter)];
}

/** A parameter's name made of a field's: letters, digits and _, and not taken. */
function freeName(name: string, { parameters }: Definition): string {
  const plain = beginning(name.replace(/[^\p{L}\p{N}_]+/gu, '_').replace(/^(?=\p{N})/u, '_'), 50) || 'value';
  for (let count = 1; ; count++) {
    const candidate = count === 1 ? plain : `${plain}_${count}`;
    if (!parameters.some((each) => each.name === candidate)) return candidate;
  }
}
