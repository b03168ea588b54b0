import type { Clause, WrittenClause } from '../criteria';
import { slotForm } from '../criteria';
import { checkCondition, linkReferences } from '../expressions';
import type { SyntaxTree } from '../statements';
import { listOf, membersOf } from '../statements';
import { criteriaStep } from '../steps';
import { say } from './speech';
import type { Meaning } from './meaning';
import type { RowsOf, Saying } from './saying';
import type { SelectPart } from './unsaid';
import { partly, unsaid } from './unsaid';

/** Conditions as the clauses of a criteria step, in slots where slots can say them. */
export function sayCriteria(
  saying: Saying,
  rows: RowsOf,
  conditions: readonly SyntaxTree[],
  meaning: Meaning,
  partOf: (condition: SyntaxTree) => SelectPart | undefined,
): RowsOf {
  if (conditions.length === 0) return rows;
  const { mint } = saying.of;
  const clauses = conditions.map((each) => partly(partOf(each), () => sayClause(each, meaning, mint)));
  return saying.put({ ...criteriaStep(mint, rows.step), clauses });
}

function sayClause(condition: SyntaxTree, meaning: Meaning, mint: () => string): Clause {
  const whole = written(condition, meaning, mint);
  const slots = slotForm(whole, meaning.scope);
  if (slots) return slots;
  const or = membersOf(condition, 'BoolExpr');
  if (or?.boolop !== 'OR_EXPR') return whole;
  const parts = listOf(or.args).map((each) => slotForm(written(each, meaning, mint), meaning.scope));
  // One clause whose slots say nothing is better read as a whole.
  if (parts.some((each) => each === undefined)) return whole;
  return { id: mint(), kind: 'group', off: false, head: 'at least one', clauses: parts.flatMap((each) => each ?? []) };
}

function written(condition: SyntaxTree, meaning: Meaning, mint: () => string): WrittenClause {
  const { text } = say(condition, meaning);
  const { problems } = checkCondition(text, meaning.scope);
  const [wrong] = problems.filter((each) => each.severity === 'error');
  if (wrong) unsaid(wrong.message);
  return { id: mint(), kind: 'expression', off: false, expression: linkReferences(text, meaning.scope) };
}
