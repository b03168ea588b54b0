import type { Place } from '@cendra/core';
import { Offsets, problem, wordAt } from '@cendra/core';
import { ProblemException } from '../../../problems';
import { failedWithin, notAllowed, statementProblem } from './errors';

interface DriverError {
  readonly code: string;
  readonly message: string;
  /** A 1-based code point of the statement. */
  readonly position?: string;
}

const isDriverError = (error: unknown): error is DriverError =>
  error instanceof Error && 'code' in error && typeof error.code === 'string' && error.code.length === 5;

/** What the server finds wrong with a text, by SQLSTATE, in plain words, with what is expected instead. */
const SAID: Readonly<Record<string, (message: string) => readonly [code: string, said: string, expected: string | undefined]>> = {
  '42601': () => ['text-broken', 'The statement cannot be read from here on.', 'what PostgreSQL’s grammar allows at this place'],
  '42P01': (message) => ['table-unknown', `There is no table ${quotedIn(message)} that can be read.`, 'a table or view of this source'],
  '42703': (message) => ['column-unknown', `There is no column ${quotedIn(message)} here.`, 'a column of the tables that are read'],
  '42702': (message) => ['column-ambiguous', `Several tables have a column ${quotedIn(message)}.`, 'its table before it, as in “h.code”'],
  '42883': () => ['function-unknown', 'There is no such function or operator for these types.', 'a function for these types, or a cast'],
  '42803': () => [
    'column-ungrouped',
    'This column is neither grouped by nor in an aggregate.',
    'the column in “group by”, or an aggregate of it',
  ],
  '42P18': () => ['parameter-untyped', 'The type of a parameter cannot be told from what it stands beside.', 'a cast, as in “:name::date”'],
  '42P08': () => ['parameter-two-types', 'A parameter stands beside two types.', 'a cast, or a parameter of its own for each'],
  '42804': () => ['types-differ', 'Two types meet here that do not suit each other.', 'a cast of one of them'],
  '42846': () => ['cast-unknown', 'A value of this type cannot be cast to that one.', 'a type it can be cast to'],
  '22P02': () => ['literal-wrong', 'This is no value of the type it stands for.', 'a value of that type'],
  '22007': () => ['literal-wrong', 'This is no date or time.', 'a date such as 2025-09-30'],
  '22008': () => ['literal-wrong', 'There is no such date or time.', 'a day the calendar has'],
  '55P03': () => [
    'source-locked',
    'Something this text reads is locked in the source, so it could not be looked at in time.',
    'to be asked again in a moment',
  ],
  '42712': (message) => ['alias-twice', `Two tables are called ${quotedIn(message)} here.`, 'an alias of its own for each'],
  '42501': (message) => ['rights-missing', ...notAllowed(message)],
  '3F000': (message) => ['schema-unknown', `There is no schema ${quotedIn(message)}.`, 'a schema of this source'],
  '42P10': () => ['order-unknown', 'This is not among the columns that are selected.', 'a column of the select list'],
};

/** The name an error speaks of: in quotes, or bare where it is written with its table. */
function quotedIn(message: string): string {
  const [, quoted, bare] = /"([^"]+)"|column (\S+) does not exist/.exec(message) ?? [];
  return quoted ?? bare?.replaceAll('"', '') ?? '';
}

/** Whether the server finds something wrong with the text itself, and not with running it. */
export const isTextError = (error: unknown): boolean =>
  isDriverError(error) && !failedWithin(error) && (error.code in SAID || error.code.startsWith('42'));

/** An error of the server as a problem at its place in the text, with the server's own message beside it. */
export function textProblem(error: unknown, text: string, place: Place = {}): ProblemException {
  if (error instanceof ProblemException) return error;
  if (!isDriverError(error) || failedWithin(error) || /^(08|57|53)/.test(error.code)) return statementProblem(error);
  const [code, said, expected] = SAID[error.code]?.(error.message) ?? ['text-refused', 'The source does not take this text.', undefined];
  const at = error.position === undefined ? undefined : new Offsets(text).ofPoints(Number(error.position) - 1);
  const found = problem(code, said, { ...place, ...(at === undefined ? {} : { position: wordAt(text, at) }) }, expected);
  return new ProblemException(422, [found], error.message);
}
