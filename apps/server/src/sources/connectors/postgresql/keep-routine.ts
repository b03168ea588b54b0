import { problem } from '@cendra/core';
import { ProblemException } from '../../../problems';
import type { SignIn } from '../connector';
import { withConnection } from './connect';
import type { PostgresqlSettings } from './settings';
import { textProblem } from './text-problems';
import { alone } from './transaction';

/**
 * Makes a function by a sign-in of its own, in one transaction with letting go of the one in whose place it comes. The
 * statement goes over the protocol in which several in one text are refused by the server.
 */
export function keepRoutine(
  settings: PostgresqlSettings,
  { user, secret }: SignIn,
  replaced: string | undefined,
  statement: string,
): Promise<void> {
  return withConnection({ ...settings, user }, secret, async (client) => {
    await client.query('begin transaction read write');
    try {
      if (replaced !== undefined) await client.query(alone(`drop routine ${replaced}`));
      await client.query(alone(statement));
      await client.query('commit');
    } catch (error) {
      await client.query('rollback').catch(() => undefined);
      throw keepingProblem(error, user, statement);
    }
  });
}

const codeOf = (error: unknown) => (typeof error === 'object' && error !== null && 'code' in error ? String(error.code) : '');

function keepingProblem(error: unknown, user: string, statement: string): ProblemException {
  const detail = error instanceof Error ? error.message : String(error);
  const say = (status: number, code: string, words: string, expected: string) =>
    new ProblemException(status, [problem(code, words, {}, expected)], detail);
  switch (codeOf(error)) {
    case '42501':
      return say(
        403,
        'keeping-refused',
        `The source does not let ${user} make this function.`,
        'the right to create in the schema, and to use what it reads',
      );
    case '3F000':
      return say(422, 'schema-unknown', 'The source has no such schema.', 'one a steward names under Access');
    case '2BP01':
      return say(409, 'routine-used', 'Something else in the source stands on the function that is there.', 'another name');
    default:
      return textProblem(error, statement);
  }
}
