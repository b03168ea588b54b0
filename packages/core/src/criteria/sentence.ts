import type { Schema } from '../fields';
import { fieldById } from '../fields';
import type { Parameter } from '../parameters';
import type { Clause, Condition, Head, Operand } from './clause';
import { operatorByWord } from './operators';

/** A clause in words, as trail lines and history say it. */
export function clauseSentence(clause: Clause, schema: Schema, parameters: readonly Parameter[]): string {
  switch (clause.kind) {
    case 'expression':
      return clause.expression.text.trim() || 'an empty clause';
    case 'group':
      return `${clause.head}: ${clause.clauses.map((each) => clauseSentence(each, schema, parameters)).join('; ')}`;
    case 'condition':
      return conditionSentence(clause, schema, parameters);
  }
}

function conditionSentence(clause: Condition, schema: Schema, parameters: readonly Parameter[]): string {
  if (clause.field === '') return 'an empty clause';
  const subject = fieldById(schema, clause.field)?.name ?? 'a missing field';
  const words = clause.operands.map((each) => operandWord(each, schema, parameters));
  const takes = operatorByWord(clause.operator)?.takes;
  if (words.length === 0 && takes !== 'none') return [subject, clause.operator, '…'].filter((each) => each !== '').join(' ');
  const shown = words.length > 12 ? `${words.length} values` : words.join(takes === 'range' ? ' to ' : ', ');
  return [subject, clause.operator, shown, clause.andNulls ? 'and nulls' : ''].filter((each) => each !== '').join(' ');
}

function operandWord(operand: Operand, schema: Schema, parameters: readonly Parameter[]): string {
  if (operand.kind === 'value') return operand.text;
  if (operand.kind === 'expression') return `= ${operand.expression.text.trim()}`;
  if (operand.kind === 'field') return fieldById(schema, operand.id)?.name ?? 'a missing field';
  const found = parameters.find((each) => each.id === operand.id);
  return found ? `:${found.name}` : 'a missing parameter';
}

export function criteriaSentence(head: Head, clauses: readonly Clause[], schema: Schema, parameters: readonly Parameter[]): string {
  const written = clauses.filter((each) => !each.off).map((each) => clauseSentence(each, schema, parameters));
  if (written.length === 0) return 'every row';
  if (head === 'none') return `none of: ${written.join('; ')}`;
  return written.join(head === 'every one' ? ' and ' : ' or ');
}
