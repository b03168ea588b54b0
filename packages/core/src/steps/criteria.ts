import { z } from 'zod';
import type { ActiveClause, CheckedClause, Clause, Head } from '../criteria';
import {
  activeClauses,
  checkClause,
  clauseIds,
  clauseMentions,
  clauseSentence,
  clauseShape,
  clausesWithin,
  clauseUses,
  operatorByWord,
  combine,
  criteriaSentence,
  expressionsWritten,
  HEADS,
  outcomeFrom,
  passes,
  renameInClauses,
} from '../criteria';
import type { Expression } from '../expressions';
import { applyBlanks, failureOf, fieldsUsed, holds } from '../expressions';
import type { Schema } from '../fields';
import { fieldById } from '../fields';
import type { Binding, Parameter } from '../parameters';
import type { Relation } from '../sql';
import { calculated, calculatedColumn, columnsOf, shared } from '../sql';
import type { DroppedRow, FollowedThrough, ItemChange, ItemList, NamedValue, StepKind, Through } from './kind';
import { ROWS_FOLLOWED } from './kind';
import { rowOf } from './rows';
import { sameField } from './passing-through';
import type { Arriving, CheckContext, Checked, StepBase } from './step';
import { firstArriving, NOTHING_ARRIVES, ONE_INPUT, stepBase } from './step';
import type { Questioning, WireRow } from './wanted-rows';

/** Keeps rows: numbered clauses under a head. Fields pass through with their ids. */
export interface CriteriaStep extends StepBase {
  readonly kind: 'criteria';
  readonly head: Head;
  readonly clauses: readonly Clause[];
}

/** Its clauses as conditions over the fields that arrive, blanks not applied. */
export type CheckedCriteria = readonly CheckedClause[];
type Own = Checked<CriteriaStep, CheckedCriteria>;

const shape: z.ZodType<CriteriaStep> = z.strictObject({
  ...stepBase,
  kind: z.literal('criteria'),
  head: z.enum(HEADS),
  clauses: z.array(clauseShape).max(200),
});

const clauses: ItemList<Clause> = {
  shape: clauseShape,
  sentence: (change: ItemChange, schema: Schema, parameters: readonly Parameter[]) => {
    const words = (clause: unknown) => clauseSentence(clause as Clause, schema, parameters);
    return change.did === 'changed'
      ? `changed ${words(change.from)} to ${words(change.to)}`
      : `${change.did} the clause ${words(change.item)}`;
  },
};

export const criteriaKind: StepKind<CriteriaStep, CheckedCriteria> = {
  kind: 'criteria',
  inputs: ONE_INPUT,
  shape,
  properties: {
    head: ({ to, title }) => `changed ${title} to keep rows where ${String(to)} holds`,
    clauses: ({ title }) => `changed the order of the clauses of ${title}`,
  },
  lists: { clauses },
  mints: () => [],
  sources: () => [],
  carries: sameField,
  origin: () => undefined,
  check: (step, [input = NOTHING_ARRIVES], context) => {
    const checked = step.clauses.map((clause) => checkClause(clause, criteriaScope(input.schema, context)));
    const problems = checked.flatMap((each) => each.problems.map((found) => ({ ...found, place: { ...found.place, step: step.id } })));
    return { ...input, problems, checked };
  },
  sentence: (step, [input = NOTHING_ARRIVES], context) => criteriaSentence(step.head, step.clauses, input.schema, context.parameters),
  mentions: ({ step, checked, arriving: [input = NOTHING_ARRIVES] }, parameters) => {
    const whole = toldWhole(step, parameters);
    const named = (id: string) => parameters.find((each) => each.id === id)?.name ?? '';
    return step.clauses.flatMap((clause) => {
      const found = clauseMentions([clause], checked, input.schema, parameters);
      return whole.has(clause.id) ? found.map((each) => ({ ...each, words: `:${named(each.parameter)} is`, apart: true as const })) : found;
    });
  },
  unasked: (step, [input = NOTHING_ARRIVES], { parameters }) => {
    const { head, clauses } = step;
    const whole = toldWhole(step, parameters);
    const told = clauses.filter((each) => asksSomething(each) && (whole.has(each.id) || !asksParameter(each, parameters))).map(withoutIdle);
    if (told.length === 0) return undefined;
    const where =
      head === 'every one'
        ? told.map((each) => inBrackets(each, clauseSentence(each, input.schema, parameters))).join(' and ')
        : criteriaSentence(head, told, input.schema, parameters);
    return { where: head === 'at least one' && told.length > 1 ? `(${where})` : where };
  },
  order: () => 'as it comes',
  relation: (checked, [input], binding) => {
    if (!input) throw new RangeError('criteria have one input');
    const condition = criteriaCondition(checked, binding);
    if (!condition) return input;
    const { relation, expressions } = shared(input, [condition]);
    const [asked = condition] = expressions;
    if (relation === input) return { node: 'filter', name: checked.title, input, condition };
    return {
      node: 'choose',
      name: checked.title,
      input: { node: 'filter', input: relation, condition: asked },
      columns: columnsOf(input),
    };
  },
  rows: (checked, [rows = []], binding) => {
    const condition = criteriaCondition(checked, binding);
    return condition ? rows.filter((row) => holds(condition, rowOf(row, binding))) : rows;
  },
  counted: {
    by: 'rows of its first input',
    passing: (checked, relation, binding) => {
      const keeps = criteriaCondition(checked, binding);
      const failure = keeps && failureOf(keeps);
      const failures = failure ? [{ when: failure }] : [];
      return { relation, failures, looksAtOtherRows: false, ...(keeps ? { keeps } : {}) };
    },
  },
  followed,
  written: (step) => allClauses(step).flatMap(expressionsWritten),
  uses: (step, parameters) => clauseUses(step.clauses, parameters),
  renamed: (step, kind, id, name) => ({ ...step, clauses: renameInClauses(step.clauses, kind, id, name) }),
  fieldName: () => undefined,
  withFieldNamed: (step) => step,
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
    clauses: clauseIds(step.clauses, idOf),
  }),
  withoutValues: (step) => ({ ...step, name: '', clauses: step.clauses.map(clauseWithoutValues) }),
};

/** A criteria step that begins with one empty clause, which asks nothing. */
export const criteriaStep = (mint: () => string, input: string): CriteriaStep => ({
  id: mint(),
  kind: 'criteria',
  name: '',
  off: false,
  inputs: [input],
  head: 'every one',
  clauses: [{ id: mint(), kind: 'condition', off: false, field: '', operator: '', operands: [], andNulls: false }],
});

const asksParameter = (clause: Clause, parameters: readonly Parameter[]) =>
  clauseUses([clause], parameters).some(({ kind }) => kind === 'parameter');

const inBrackets = (clause: Clause, words: string) => (clause.kind === 'group' ? `(${words})` : words);

/**
 * The clauses that say something else when their parameters are told one by one, as if each condition had to hold: all of a
 * step whose head is another, and groups in which one stands beside others or is denied.
 */
function toldWhole({ head, clauses }: CriteriaStep, parameters: readonly Parameter[]): ReadonlySet<string> {
  const together = (of: Head, inner: readonly Clause[]) =>
    of === 'none' || (of === 'at least one' && inner.filter(asksSomething).length > 1);
  const mixed = (clause: Clause): boolean =>
    clause.kind === 'group' &&
    (together(clause.head, clause.clauses) ||
      clause.clauses.some((each) => mixed(each) || (asksSomething(each) && !asksParameter(each, parameters))));
  const whole = together(head, clauses) ? clauses : clauses.filter((each) => asksParameter(each, parameters) && mixed(each));
  return new Set(whole.filter(asksSomething).map((each) => each.id));
}

/** The clause without what is off or not filled yet in it. */
const withoutIdle = (clause: Clause): Clause =>
  clause.kind === 'group' ? { ...clause, clauses: clause.clauses.filter(asksSomething).map(withoutIdle) } : clause;

const asksSomething = (clause: Clause): boolean => !clause.off && !asksNothing(clause);

/** A clause that is not filled yet, or a group of such. */
function asksNothing(clause: Clause): boolean {
  if (clause.kind === 'group') return !clause.clauses.some(asksSomething);
  if (clause.kind === 'expression') return clause.expression.text.trim() === '';
  return clause.field === '' || (clause.operands.length === 0 && operatorByWord(clause.operator)?.takes !== 'none');
}

const WITHOUT_OTHER_ROWS = 'Criteria look at one row at a time, and this is computed over other rows.';

const criteriaScope = (schema: Schema, { parameters, calendar, budget }: CheckContext) => ({
  schema,
  parameters,
  calendar,
  budget,
  withoutOtherRows: WITHOUT_OTHER_ROWS,
});

/** The whole step as one condition with blanks applied; undefined when it asks nothing. */
export function criteriaCondition({ step, checked }: Pick<Own, 'step' | 'checked'>, { blanks }: Binding): Expression | undefined {
  return combine(
    step.head,
    checked.flatMap((each) => (each.expression && applyBlanks(each.expression, blanks)) ?? []),
  );
}

/** The clauses of a step that ask something, with blanks applied. */
export function activeClausesOf({ step, checked }: Pick<Own, 'step' | 'checked'>, { blanks }: Binding): readonly ActiveClause[] {
  return activeClauses(step.head, checked, blanks);
}

function* followed(through: Through<CriteriaStep, CheckedCriteria>): Questioning<FollowedThrough> {
  const { checked, inputs, known, arrived, binding, parameters } = through;
  const [input] = inputs;
  if (!input) throw new RangeError('criteria have one input');
  const { schema }: Arriving = firstArriving(checked);
  const top = activeClausesOf(checked, binding).filter((each) => each.line.within.length === 0);
  const used = [...new Set(top.flatMap((each) => fieldsUsed(each.condition)))].flatMap((id) => fieldById(schema, id) ?? []);
  const own = top.map((each) => calculatedColumn(each.line.clause.id, each.condition));
  const filtered: Relation = { node: 'filter', input, condition: known };
  const columns = [...own, ...used];
  const rows = columns.length === 0 ? [] : yield { relation: calculated(filtered, own, undefined), columns, limit: ROWS_FOLLOWED };
  const { head } = checked.step;
  const dropped = rows.flatMap((row: WireRow): DroppedRow[] => {
    const outcomes = top.map((_each, index) => passes(head, outcomeFrom(row[index])));
    const kept = top.length === 0 || (head === 'at least one' ? outcomes.includes(true) : !outcomes.includes(false));
    if (kept) return [];
    const failed = top.filter((_each, index) => !outcomes[index]);
    const asked = new Set(failed.flatMap((each) => fieldsUsed(each.condition)));
    const values = used.map(({ name }, index): NamedValue => ({ name, value: row[own.length + index] ?? null }));
    return [
      {
        clauses: failed.map(({ line }) => ({
          id: line.clause.id,
          number: line.number,
          words: clauseSentence(line.clause, schema, parameters),
        })),
        values: values.filter((_each, index) => asked.has(used[index]?.id ?? '')),
      },
    ];
  });
  return { present: arrived - dropped.length, dropped, values: [], known };
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

/** All clauses of a step, those inside groups too. */
export const allClauses = (step: CriteriaStep): readonly Clause[] => step.clauses.flatMap(clausesWithin);
