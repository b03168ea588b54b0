import { z } from 'zod';
import type { Clause, Head, CheckedClause } from '../criteria';
import { checkClause, clauseShape, clauseUses, combine, criteriaSentence, HEADS, renameInClauses } from '../criteria';
import type { Expression, Scope } from '../expressions';
import { applyBlanks, holds } from '../expressions';
import type { Schema } from '../fields';
import type { Binding } from '../parameters';
import { columnsOf, shared } from '../sql';
import { rowOf } from './rows';
import type { StepBase, StepContext, StepKind } from './step';
import { stepBase } from './step';

/** Keeps rows: numbered clauses under a head. Fields pass through with their ids. */
export interface CriteriaStep extends StepBase {
  readonly kind: 'criteria';
  readonly head: Head;
  readonly clauses: readonly Clause[];
}

const shape: z.ZodType<CriteriaStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('criteria'),
  head: z.enum(HEADS),
  clauses: z.array(clauseShape).max(200),
});

export const criteriaKind: StepKind<CriteriaStep> = {
  kind: 'criteria',
  inputs: 1,
  shape,
  check: (step, [input = EMPTY], context) => ({
    schema: input,
    problems: checked(step, input, context).flatMap((each) =>
      each.problems.map((found) => ({ ...found, place: { ...found.place, step: step.id } })),
    ),
  }),
  sentence: (step, [input = EMPTY], context) => criteriaSentence(step.head, step.clauses, input, context.parameters),
  relation: (step, [input], [schema = EMPTY], context) => {
    if (!input) throw new RangeError('criteria have one input');
    const condition = criteriaCondition(step, schema, context);
    if (!condition) return input;
    const { relation, expressions } = shared(input, [condition]);
    const name = step.name || criteriaSentence(step.head, step.clauses, schema, context.parameters);
    const [asked = condition] = expressions;
    if (relation === input) return { node: 'filter', name, input, condition };
    return { node: 'choose', name, input: { node: 'filter', input: relation, condition: asked }, columns: columnsOf(input) };
  },
  rows: (step, [input], context) => {
    if (!input) throw new RangeError('criteria have one input');
    const condition = criteriaCondition(step, input.schema, context);
    return condition ? { ...input, rows: input.rows.filter((row) => holds(condition, rowOf(row, context.binding))) } : input;
  },
  uses: (step, parameters) => clauseUses(step.clauses, parameters),
  renamed: (step, kind, id, name) => ({ ...step, clauses: renameInClauses(step.clauses, kind, id, name) }),
  withoutValues: (step) => ({ ...step, name: '', clauses: step.clauses.map(clauseWithoutValues) }),
};

const EMPTY: Schema = { fields: [] };

const WITHOUT_OTHER_ROWS = 'Criteria look at one row at a time, and this is computed over other rows.';

type CriteriaContext = StepContext & { readonly binding?: Binding };

const checked = (step: CriteriaStep, schema: Schema, context: CriteriaContext): readonly CheckedClause[] =>
  step.clauses.map((clause) => checkClause(clause, criteriaScope(schema, context)));

function criteriaScope(schema: Schema, { parameters, calendar, binding }: CriteriaContext): Scope {
  const scope = { schema, parameters, calendar, withoutOtherRows: WITHOUT_OTHER_ROWS };
  return binding ? { ...scope, now: binding.now } : scope;
}

/** A clause as a condition with blanks applied; undefined when it asks nothing, and for a group with its own clauses. */
export function clauseCondition(
  clause: Clause,
  schema: Schema,
  context: StepContext & { readonly binding: Binding },
): Expression | undefined {
  const { expression } = checkClause(clause, criteriaScope(schema, context));
  return expression && applyBlanks(expression, context.binding.blanks);
}

/** The whole step as one condition with blanks applied; undefined when it asks nothing. */
export function criteriaCondition(
  step: CriteriaStep,
  schema: Schema,
  context: StepContext & { readonly binding: Binding },
): Expression | undefined {
  const items = checked(step, schema, context).flatMap((each) => {
    const asked = each.expression && applyBlanks(each.expression, context.binding.blanks);
    return asked ? [asked] : [];
  });
  return combine(step.head, items);
}

function clauseWithoutValues(clause: Clause): Clause {
  switch (clause.kind) {
    case 'group':
      return { ...clause, clauses: clause.clauses.map(clauseWithoutValues) };
    case 'expression':
      return { ...clause, expression: { text: '', refs: [] } };
    case 'condition':
      return { ...clause, operands: clause.operands.filter((each) => each.kind === 'parameter' || each.kind === 'field') };
  }
}
