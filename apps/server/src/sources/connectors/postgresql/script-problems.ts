import type { Parse, ParsedText, Problem, ScriptStatement } from '@cendra/core';
import { brokenText, offsetBack, problem } from '@cendra/core';
import { ProblemException, refused } from '../../../problems';
import { messageOf, statementProblem } from './errors';
import { isTextError, textProblem } from './text-problems';

/** A statement as the grammar reads it; refused where it does not. */
export function readable(text: string, parse: Parse): ParsedText & { readonly ok: true } {
  const parsed = parse(text);
  if (parsed.ok) return parsed;
  const found = brokenText(text, parsed);
  throw new ProblemException(422, [found], found.detail);
}

export function refuseProblems(problems: readonly Problem[]): void {
  if (problems.length > 0) throw new ProblemException(422, problems);
}

/** What the server says of a text that was sent, its places told in the statement it was made of. */
export function sentProblem(error: unknown, text: string, back: (offset: number) => number): ProblemException {
  if (!isTextError(error)) return error instanceof ProblemException ? error : failing(error);
  const { problems, detail } = textProblem(error, text);
  const placed = problems.map((each): Problem => {
    const { position } = each.place;
    return position ? { ...each, place: { ...each.place, position: { from: back(position.from), to: back(position.to) } } } : each;
  });
  return new ProblemException(422, placed, detail);
}

/** What goes wrong while a statement runs, such as a division by zero: the server's own words say it best. */
export function failing(error: unknown): ProblemException {
  if (error instanceof ProblemException) return error;
  const known = statementProblem(error);
  if (known.problems[0]?.code !== 'statement-failed') return known;
  return new ProblemException(422, [problem('statement-failed', `The source could not run it: ${messageOf(error)}.`)], known.detail);
}

/** A problem of a statement as one of its script: with its number, and where the text has it. */
export function problemAt(statement: Pick<ScriptStatement, 'number' | 'from' | 'to' | 'step' | 'moved'>, error: unknown): unknown {
  if (error instanceof StatementProblem) return error;
  const exception = error instanceof ProblemException ? error : failing(error);
  const { number, from, to, step, moved } = statement;
  const problems = exception.problems.map((each): Problem => {
    const { position } = each.place;
    const at = position
      ? { from: offsetBack(moved, position.from), to: offsetBack(moved, position.to) }
      : { from, to: Math.min(to, from + 1) };
    const place = { ...each.place, ...(step === '' ? {} : { step }), position: at };
    return { ...each, message: `Statement ${number}: ${each.message}`, place };
  });
  return new StatementProblem(exception.getStatus(), problems, exception.detail);
}

/** One that has its place in the script already. */
class StatementProblem extends ProblemException {}

/** What is made stays when its statement is over, and a value would not. */
export function refuseValues(values: readonly unknown[]): void {
  if (values.length === 0) return;
  throw refused(
    422,
    'parameter-in-definition',
    'A parameter cannot stand in what makes a table, a view or an index.',
    {},
    'the parameter in a query, such as “create temp table … as select …”',
  );
}
