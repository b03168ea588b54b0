import type { AbsentField, Expression, Part, Window } from '../expressions';
import { checkExpression, fieldsUsed, linkReferences, windowsOf } from '../expressions';
import type { Field, Schema } from '../fields';
import { isNumber, recogniseRole } from '../fields';
import type { Problem } from '../problem';
import { problem, withPlace } from '../problem';
import type { CalculatedField, CalculateStep } from './calculate';
import type { Grain } from './grain';
import { tellsApart } from './grain';
import type { Arriving, CheckContext } from './step';

/** A calculated field as far as it could be understood. */
export interface CheckedField {
  readonly field: CalculatedField;
  /** Undefined when there are problems. */
  readonly expression?: Expression;
  readonly part?: Part;
  readonly problems: readonly Problem[];
  /** What its expression could name: for completion, and for linking what is typed. */
  readonly scope: FieldScope;
}

export interface FieldScope {
  readonly schema: Schema;
  readonly absent: readonly AbsentField[];
}

export interface CheckedFields {
  /** The fields that arrive and the calculated ones behind them. */
  readonly schema: Schema;
  readonly fields: readonly CheckedField[];
}

type Calculating = Pick<CheckContext, 'parameters' | 'calendar' | 'budget'>;

/** Checks the fields in their order; each sees what arrives and the sound fields before it. */
export function checkCalculated(
  step: Pick<CalculateStep, 'id' | 'fields'>,
  { schema: input, grain }: Arriving,
  context: Calculating,
): CheckedFields {
  const leads = leadsAmong(step.fields);
  const made: Field[] = [];
  const broken: AbsentField[] = [];
  const fields = step.fields.map((field, index): CheckedField => {
    const scope: FieldScope = {
      schema: { fields: [...input.fields, ...made] },
      absent: [...broken, ...step.fields.slice(index).map((later) => notYet(field, later, leads))],
    };
    const place = { step: step.id, field: field.id };
    const written = field.expression.text.trim() !== '';
    const checked = !written
      ? NOTHING_WRITTEN
      : checkExpression(field.expression.text, { ...context, ...scope, refs: field.expression.refs });
    const named = nameProblems(field, input, step.fields.slice(0, index));
    // A field that is just being made stops nothing: it is not there before something is written.
    const problems = [...(written ? named : named.map(asHint)), ...checked.problems, ...ties(checked.expression, grain)];
    const sound = checked.expression !== undefined && !problems.some((each) => each.severity === 'error');
    if (sound && checked.expression) {
      made.push(calculatedField(field, checked.expression, step.id, scope.schema.fields));
      context.budget.makes(field.id, checked.expression);
    } else broken.push(written ? brokenField(field) : unwrittenField(field));
    return {
      field,
      problems: problems.map((each) => withPlace(each, place)),
      scope,
      ...(sound && checked.expression ? { expression: checked.expression } : {}),
      ...(sound && checked.part ? { part: checked.part } : {}),
    };
  });
  return { schema: { fields: [...input.fields, ...made] }, fields };
}

const asHint = (found: Problem): Problem => ({ ...found, severity: 'hint' });

const NOTHING_WRITTEN: ReturnType<typeof checkExpression> = {
  problems: [
    asHint(problem('expression-missing', 'Nothing is written for this calculated field yet.', {}, 'an expression, such as price * kilos')),
  ],
};

/** The field a calculated field is behind its step; `known` are those it may be made of. */
export function calculatedField(
  { id, name }: Pick<CalculatedField, 'id' | 'name'>,
  expression: Expression,
  step: string,
  known: readonly Field[],
): Field {
  const { type } = expression;
  const role = recogniseRole({ name, type, primaryKey: false, foreignKey: false, unique: false });
  const oncePer = isNumber(type) ? oncePerOf(expression, known) : undefined;
  return { id, name, type, role, origin: { step, column: name }, forUseOnly: false, ...(oncePer === undefined ? {} : { oncePer }) };
}

/** Made of nothing but what stands in several rows of one, it stands in them as well. */
function oncePerOf(expression: Expression, known: readonly Field[]): string | undefined {
  const used = new Set(fieldsUsed(expression));
  const of = known.filter((each) => used.has(each.id));
  return of.every((each) => each.oncePer !== undefined) ? of[0]?.oncePer : undefined;
}

function nameProblems(field: CalculatedField, input: Schema, before: readonly CalculatedField[]): readonly Problem[] {
  const { name } = field;
  if (name.trim() === '') return [problem('name-missing', 'This calculated field has no name yet.', {}, 'a name, such as amount')];
  if (name.includes('\u0000')) return [problem('name-unsuited', 'The name holds a zero character.', {}, 'a name without it')];
  const taken = [...input.fields, ...before].some((each) => each.name === name);
  return taken ? [problem('name-taken', `There is a field ${name} already.`, {}, 'a name of its own')] : [];
}

const brokenField = ({ id, name }: CalculatedField): AbsentField => ({
  id,
  name,
  code: 'field-broken',
  message: `${name} has an error of its own, so nothing can be calculated with it.`,
  expected: `${name} mended first`,
});

const unwrittenField = ({ id, name }: CalculatedField): AbsentField => ({
  id,
  name,
  code: 'field-unwritten',
  message: `Nothing is written for ${name} yet, so nothing can be calculated with it.`,
  expected: `${name} written first`,
});

/** Whether what a calculated field names, and what those name, comes to another one: itself and later ones too. */
type Leads = (from: CalculatedField, to: CalculatedField) => boolean;

function leadsAmong(fields: readonly CalculatedField[]): Leads {
  const places = new Map(fields.map((each, at) => [each.id, at]));
  const absent = fields.map(({ id, name }) => ({ id, name, code: '', message: '', expected: '' }));
  const bit = (id: string) => 1n << BigInt(places.get(id) ?? 0);
  const reached = fields.map(({ expression }) => {
    const linked = linkReferences(expression.text, { schema: { fields: [] }, parameters: [], absent }).refs;
    const named = [...expression.refs, ...linked].filter((ref) => ref.kind === 'field' && places.has(ref.id));
    return named.reduce((bits, { id }) => bits | bit(id), 0n);
  });
  // Closed over every field in turn: what leads to it leads to all it leads to.
  fields.forEach(({ id }, by) => {
    reached.forEach((bits, at) => {
      if (bits & bit(id)) reached[at] = bits | (reached[by] ?? 0n);
    });
  });
  return (from, to) => from === to || ((reached[places.get(from.id) ?? 0] ?? 0n) & bit(to.id)) !== 0n;
}

/** Why a field cannot use one that stands at its place or behind it. */
function notYet(field: CalculatedField, later: CalculatedField, leads: Leads): AbsentField {
  const { id, name } = later;
  if (later === field)
    return { id, name, code: 'field-circular', message: `${name} is calculated from itself.`, expected: 'fields that are there before it' };
  if (leads(later, field))
    return {
      id,
      name,
      code: 'field-circular',
      message: `${field.name} is calculated from ${name}, and ${name} from ${field.name}.`,
      expected: 'one of them without the other',
    };
  return { id, name, code: 'field-later', message: `${name} is calculated further down.`, expected: `${name} moved above ${field.name}` };
}

/** Functions whose value depends on which of two equal rows comes first. */
const needsPlace = (node: Window) => ['rowNumber', 'lag', 'lead', 'first'].includes(node.name) || node.frame !== undefined;

/** A window whose partition and order do not name what tells rows apart: its values can change from run to run. */
function ties(expression: Expression | undefined, grain: Grain): readonly Problem[] {
  if (!expression) return [];
  const loose = windowsOf(expression).find((node) => {
    const named = [...node.partition, ...node.order.map((each) => each.of)];
    return needsPlace(node) && !tellsApart(grain, new Set(named.filter((each) => each.op === 'field').flatMap(fieldsUsed)));
  });
  if (!loose) return [];
  const message = 'Rows that are equal in this order have no order among themselves, so their values can change from run to run.';
  return [{ ...problem('order-ties', message, {}, 'a key behind it in order by'), severity: 'hint' }];
}
