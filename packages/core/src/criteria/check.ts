import type { Field, FieldType } from '../fields';
import { fieldById, typeWord, withArticle, yesno, float, date } from '../fields';
import type { Expression, ExpressionText, Scope } from '../expressions';
import { checkCondition, checkExpression, commonType } from '../expressions';
import type { Parameter, RelativeDay } from '../parameters';
import { parameterType, parseRelativeDay, parseStretch } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Value } from '../values';
import { beginning, COMMON_CALENDAR, parseDatetime, parseInstant, readValue } from '../values';
import type { Clause, Condition, Head, Operand } from './clause';
import type { Operator } from './operators';
import { familyOf, operatorByWord, operatorsFor } from './operators';

export interface CheckedClause {
  readonly clause: Clause;
  /** Undefined for a clause that is off, unfinished or wrong. */
  readonly expression?: Expression;
  readonly problems: readonly Problem[];
  /** Of a group: its clauses, each by itself. */
  readonly inner?: readonly CheckedClause[];
}

/** Each clause as a typed condition over the scope's fields, or its problems at their place. */
export function checkClause(clause: Clause, scope: Scope): CheckedClause {
  if (clause.off) return { clause, problems: [] };
  switch (clause.kind) {
    case 'expression':
      return checkWritten(clause, scope);
    case 'group': {
      const inner = clause.clauses.map((each) => checkClause(each, scope));
      const problems = inner.flatMap((each) => each.problems);
      const expression = combine(
        clause.head,
        inner.flatMap((each) => each.expression ?? []),
      );
      return expression ? { clause, expression, problems, inner } : { clause, problems, inner };
    }
    case 'condition':
      return checkSlots(clause, scope);
  }
}

/** Clauses under their head as one condition. Under "none", an unknown clause does not hold. */
export function combine(head: Head, items: readonly Expression[]): Expression | undefined {
  const [only] = items;
  if (!only) return undefined;
  if (head === 'none') {
    const negated = items.map((of): Expression => ({ op: 'not', type: yesno, of: { op: 'isTrue', type: yesno, of } }));
    return negated.length === 1 ? negated[0] : { op: 'and', type: yesno, items: negated };
  }
  return items.length === 1 ? only : { op: head === 'every one' ? 'and' : 'or', type: yesno, items };
}

function checkWritten(clause: Clause & { kind: 'expression' }, scope: Scope): CheckedClause {
  if (clause.expression.text.trim() === '') return { clause, problems: [] };
  const checked = checkCondition(clause.expression.text, { ...scope, refs: clause.expression.refs });
  const problems = checked.problems.map((each) => ({ ...each, place: { ...each.place, clause: clause.id } }));
  return checked.expression ? { clause, expression: checked.expression, problems } : { clause, problems };
}

function checkSlots(clause: Condition, scope: Scope): CheckedClause {
  if (clause.field === '') return { clause, problems: [] };
  const place = { clause: clause.id };
  const wrong = (code: string, message: string, expected?: string): CheckedClause => ({
    clause,
    problems: [problem(code, message, place, expected)],
  });
  const field = fieldById(scope.schema, clause.field);
  if (!field) return wrong('field-gone', 'The field this clause asks about does not arrive here any more.', 'a field of the step before');
  const operator = operatorByWord(clause.operator);
  if (!operator || !operatorsFor(field.type).includes(operator)) {
    const offered = operatorsFor(field.type)
      .map((each) => each.word)
      .join(', ');
    return wrong('operator-unsuited', `“${clause.operator}” does not suit ${field.name}, a ${typeWord(field.type)}.`, offered);
  }
  return build(clause, field, operator, scope);
}

function build(clause: Condition, field: Field, operator: Operator, scope: Scope): CheckedClause {
  const read = readOperands(clause, field, operator, scope);
  if ('problem' in read) return { clause, problems: [read.problem] };
  // A slot not filled yet: the clause asks nothing until it is.
  if (read.expressions === undefined) return { clause, problems: [] };
  const subject: Expression = { op: 'field', type: field.type, id: field.id };
  const condition = operator.build(subject, read.expressions);
  const withNulls: Expression = { op: 'or', type: yesno, items: [condition, { op: 'isNull', type: yesno, of: subject }] };
  return { clause, expression: clause.andNulls && operator.losesNulls ? withNulls : condition, problems: [] };
}

type Operands = { readonly expressions: readonly Expression[] | undefined } | { readonly problem: Problem };

function readOperands(clause: Condition, field: Field, operator: Operator, scope: Scope): Operands {
  if (operator.takes === 'none') return { expressions: [] };
  const [first] = clause.operands;
  if (!first) return { expressions: undefined };
  if (first.kind === 'parameter') return parameterOperands(clause, first.id, field, operator, scope);
  const stretch = operator.takes === 'range' && familyOf(field.type) === 'day' ? readDays(clause.operands, scope) : undefined;
  if (stretch) return { expressions: stretch };
  const counts = { one: 1, range: 2, several: clause.operands.length };
  if (clause.operands.length !== counts[operator.takes]) return { expressions: undefined };
  const expressions: Expression[] = [];
  for (const operand of clause.operands) {
    const read = readOperand(clause, operand, field, scope);
    if (!read) return { expressions: undefined };
    if ('problem' in read) return read;
    expressions.push(read.expression);
  }
  return { expressions };
}

function parameterOperands(clause: Condition, id: string, field: Field, operator: Operator, scope: Scope): Operands {
  const parameter = scope.parameters.find((each) => each.id === id);
  const place = { clause: clause.id };
  if (!parameter)
    return { problem: problem('parameter-gone', 'The parameter this clause asks with is gone.', place, 'another parameter, or a value') };
  if (parameter.takes !== operator.takes) {
    const needed = operator.takes === 'range' ? 'a range' : `${operator.takes} value${operator.takes === 'one' ? '' : 's'}`;
    return {
      problem: problem(
        'parameter-takes',
        `“${operator.word}” asks with ${needed}, and :${parameter.name} takes ${parameter.takes}.`,
        place,
        `a parameter that takes ${operator.takes}`,
      ),
    };
  }
  const type = parameterType(parameter);
  if (!suits(field.type, type))
    return {
      problem: problem(
        'type-mixed',
        `${field.name} is a ${typeWord(field.type)} and :${parameter.name} is a ${parameter.type}.`,
        place,
        `a parameter of type ${typeWord(field.type)}`,
      ),
    };
  return { expressions: parameterExpressions(parameter, type, operator) };
}

function parameterExpressions(parameter: Parameter, type: FieldType, operator: Operator): readonly Expression[] {
  const { id } = parameter;
  if (operator.takes === 'range')
    return [
      { op: 'parameter', type, id, part: 'from' },
      { op: 'parameter', type, id, part: 'until' },
    ];
  // The operator puts its field in place of `of`; a list has no meaning without one.
  if (operator.takes === 'several') return [{ op: 'inList', type: yesno, listType: type, of: { op: 'literal', type, value: null }, id }];
  return [{ op: 'parameter', type, id }];
}

const suits = (field: FieldType, operand: FieldType) =>
  commonType(field, operand) !== undefined || (field.kind === 'instant' && familyOf(operand) === 'day');

function readOperand(
  clause: Condition,
  operand: Operand,
  field: Field,
  scope: Scope,
): { readonly expression: Expression } | { readonly problem: Problem } | undefined {
  const place = { clause: clause.id };
  if (operand.kind === 'parameter')
    return { problem: problem('operand-mixed', 'A parameter stands among typed values.', place, 'only values, or one parameter') };
  if (operand.kind === 'field') {
    const other = fieldById(scope.schema, operand.id);
    if (!other) return { problem: problem('field-gone', 'The field compared with does not arrive here any more.', place) };
    if (!suits(field.type, other.type))
      return {
        problem: problem(
          'type-mixed',
          `${field.name} is a ${typeWord(field.type)} and ${other.name} is a ${typeWord(other.type)}.`,
          place,
          `a field of type ${typeWord(field.type)}`,
        ),
      };
    return { expression: { op: 'field', type: other.type, id: other.id } };
  }
  if (operand.kind === 'expression') return readExpression(operand.expression, field, scope, place);
  if (operand.text === '' && field.type.kind !== 'text') return undefined;
  const relative = familyOf(field.type) === 'day' ? parseRelativeDay(operand.text) : undefined;
  if (!relative) return readTyped(operand.text, field, place);
  return { expression: relativeDay(relative, scope) };
}

/** Both ends of a range that one relative stretch, such as `last 3 months`, gives. */
function readDays(operands: readonly Operand[], scope: Scope): readonly Expression[] | undefined {
  const [first, second] = operands;
  if (first?.kind !== 'value' || (second !== undefined && (second.kind !== 'value' || second.text.trim() !== ''))) return undefined;
  const stretch = parseStretch(first.text);
  return stretch && (['start', 'end'] as const).map((at) => relativeDay({ at, of: stretch }, scope));
}

const relativeDay = (day: RelativeDay, { calendar = COMMON_CALENDAR }: Scope): Expression => ({
  op: 'relativeDay',
  type: date,
  day,
  calendar,
});

function readExpression(
  written: ExpressionText,
  field: Field,
  scope: Scope,
  place: { clause: string },
): { readonly expression: Expression } | { readonly problem: Problem } | undefined {
  if (written.text.trim() === '') return undefined;
  const { expression, problems } = checkExpression(written.text, { ...scope, refs: written.refs });
  const [found] = problems;
  if (found) return { problem: { ...found, place } };
  if (!expression) return undefined;
  if (suits(field.type, expression.type)) return { expression };
  return {
    problem: problem(
      'type-mixed',
      `${field.name} is ${withArticle(typeWord(field.type))} and ${beginning(written.text.trim(), 60)} is ${withArticle(typeWord(expression.type))}.`,
      place,
      withArticle(typeWord(field.type)),
    ),
  };
}

function readTyped(
  text: string,
  field: Field,
  place: { clause: string },
): { readonly expression: Expression } | { readonly problem: Problem } {
  const literal = (type: FieldType, value: Value) => ({ expression: { op: 'literal', type, value } as Expression });
  const type = typedAs(field.type, text);
  const read = readValue(type, text);
  if (read.ok) return literal(type, read.value);
  const expected = familyOf(field.type) === 'day' ? `${read.expected}, or a day such as today or start of last month` : read.expected;
  return { problem: problem('value-wrong-type', `“${beginning(text, 60)}” is no value for ${field.name}.`, place, expected) };
}

/** The type a typed value has: numbers are compared with all the digits typed, and days with days, whatever the field's own precision. */
export function typedAs(type: FieldType, text: string): FieldType {
  if (type.kind === 'whole' || type.kind === 'decimal') {
    const exact: FieldType = { kind: 'decimal', precision: 38, scale: Math.min(38, /\.(\d*)/.exec(text)?.[1]?.length ?? 0) };
    return type.kind === 'decimal' && type.open && !readValue(exact, text).ok ? type : exact;
  }
  if (type.kind === 'float') return float;
  if (type.kind === 'instant' && parseDatetime(text) === undefined && parseInstant(text) !== undefined) return type;
  const finer = type.kind === 'datetime' || type.kind === 'instant';
  if (!finer) return type;
  return /\d[ T]\d/.test(text.trim()) && parseDatetime(text) !== undefined ? { kind: 'datetime' } : date;
}
