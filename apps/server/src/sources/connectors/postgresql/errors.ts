import type { Problem } from '@cendra/core';
import { problem } from '@cendra/core';
import { ProblemException, refused } from '../../../problems';
import type { PostgresqlSettings } from './settings';

interface Explained {
  readonly problem: Problem;
  readonly detail: string;
}

const codeOf = (error: unknown) => (typeof error === 'object' && error !== null && 'code' in error ? String(error.code) : '');
export const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error));

/** Why connecting failed, in words that name the setting to look at. The place is the setting's pointer. */
export function connectionProblem(error: unknown, { host, port, database, user, tls }: PostgresqlSettings): Explained {
  const detail = messageOf(error);
  const say = (code: string, message: string, pointer: string, expected?: string): Explained => ({
    problem: problem(code, message, { pointer }, expected),
    detail,
  });
  const code = codeOf(error);
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return say('host-unknown', `There is no host named ${host}.`, '/settings/host', 'the name or address of a database server');
  if (code === 'ECONNREFUSED')
    return say(
      'port-closed',
      `Nothing answers at ${host} on port ${port}.`,
      '/settings/port',
      'the port the database listens on, often 5432',
    );
  if (['EHOSTUNREACH', 'ENETUNREACH', 'ETIMEDOUT'].includes(code) || /timeout/i.test(detail))
    return say('host-silent', `${host} does not answer on port ${port}.`, '/settings/host', 'a host that can be reached from the server');
  if (code === '3D000')
    return say(
      'database-unknown',
      `The server has no database named ${database}.`,
      '/settings/database',
      'the name of a database on that server',
    );
  if (code === '28P01' || (code === '28000' && /password|role/.test(detail)))
    return say('sign-in-refused', `The server does not accept ${user} with this password.`, '/secret', 'the user’s password');
  if (code === '28000' && /SSL|encryption|pg_hba/.test(detail))
    return say(
      'tls-needed',
      `The server refuses ${user} without TLS or from this address.`,
      '/settings/tls',
      tls === 'off' ? 'TLS required or verified' : 'a sign-in the server allows from here',
    );
  if (code === '42501')
    return say('rights-missing', `${user} may not connect to ${database}.`, '/settings/user', 'a user with the right to connect');
  if (/does not support SSL/i.test(detail))
    return say('tls-unavailable', `The server at ${host} does not offer TLS.`, '/settings/tls', 'TLS off, or a server that offers it');
  if (/certificate|self.signed|altname/i.test(detail) || /^(DEPTH_ZERO|SELF_SIGNED|UNABLE_TO|CERT_|ERR_TLS)/.test(code))
    return say(
      'tls-unverified',
      `The certificate of ${host} could not be verified.`,
      '/settings/tls',
      'a certificate signed by an authority this server trusts, or TLS required without verifying',
    );
  if (code === '53300')
    return say(
      'source-full',
      'The server has no free connection.',
      '/settings/host',
      'a server with connections to spare; try again later',
    );
  if (code === '57P03')
    return say('source-starting', 'The server is starting up or shutting down.', '/settings/host', 'try again in a moment');
  if (error instanceof ProblemException || /end|terminated|reset|EPROTO|ECONNRESET/i.test(`${detail}${code}`))
    return say(
      'not-a-database',
      `What answers at ${host}:${port} does not speak PostgreSQL, or closed the connection.`,
      '/settings/port',
      'the port of a PostgreSQL server',
    );
  return say('source-unreachable', `The source at ${host}:${port} could not be reached.`, '/settings/host');
}

const SQLSTATE = /^(?:\d|F0|HV|P0|XX)[0-9A-Z]{3,4}$/;

/** What the source's user may not do, by the server's message. */
export const notAllowed = (message: string): readonly [said: string, expected: string] =>
  /\b(function|procedure|routine)\b/.test(message)
    ? ['The source’s user may not call this function.', 'the right to execute it']
    : ['The source’s user may not read this.', 'the right to select from it'];

/** What the server adds to its message: which values it met, advice, and the place in a routine that was called, line by line. */
interface Told {
  readonly detail?: string;
  readonly hint?: string;
  readonly where?: string;
}

const toldOf = (error: unknown): Told => (error instanceof Error ? (error as Told) : {});

/**
 * Whether a routine failed that the statement calls: what it raised itself, or a name in its own text that is wrong, which
 * is no table or column a step reads.
 */
export const failedWithin = (error: unknown): boolean =>
  codeOf(error).startsWith('P0') || (codeOf(error).startsWith('42') && toldOf(error).where !== undefined);

/** The server's message with all that it adds to it. */
function wholly(error: unknown): string {
  const { detail, hint, where } = toldOf(error);
  return [messageOf(error), detail, hint, where].filter((each) => each).join('\n');
}

/** What the routine says of it, with its own advice; the server's is about a name, and stands with its message. */
function withinProblem(error: unknown): ProblemException {
  const hint = codeOf(error).startsWith('P0') ? toldOf(error).hint : undefined;
  const said = messageOf(error);
  return refused(422, 'routine-failed', `What it calls stopped: ${said.replace(/\.$/, '')}.`, {}, hint?.replace(/\.$/, ''), wholly(error));
}

/** Why a statement failed, in plain words; the database's own message goes along as the detail. */
export function statementProblem(error: unknown): ProblemException {
  if (failedWithin(error)) return withinProblem(error);
  const code = codeOf(error);
  const detail = messageOf(error);
  const all = wholly(error);
  const say = (status: number, name: string, message: string, expected?: string) => refused(status, name, message, {}, expected, all);
  if (code === '57014' && /timeout/.test(detail))
    return say(
      504,
      'statement-too-long',
      'The statement ran longer than allowed and was stopped.',
      'a narrower question, or a higher limit',
    );
  if (code === '57014') return say(409, 'run-cancelled', 'The run was stopped.');
  if (code === '42P01') return say(422, 'table-gone', 'A table this step reads is gone.', 'the table it was made with, or another one');
  if (code === '42703')
    return say(422, 'column-gone', 'A column this step reads is gone.', 'a column of this name, or leave the field out');
  if (code === '42501') return say(403, 'rights-missing', ...notAllowed(detail));
  if (code === '42883' || code === '42804' || code === '42846')
    return say(422, 'column-retyped', 'A column this step reads has another type now.', 'take the new type over in the table step');
  if (code === '25006')
    return say(
      422,
      'would-write',
      'It would write, which a statement that only reads may not.',
      'a function called in a session of its own, where it may make temp tables',
    );
  if (code === '53100' || code === '53200' || code === '53400')
    return say(507, 'source-full', 'The source ran out of space or memory.', 'a narrower question');
  // The driver says `not queryable` to what is asked of a connection that broke a moment ago. What the server itself says has
  // a number, and words that may be a routine's own.
  const broken = !SQLSTATE.test(code) && /terminated|ended|reset|closed|EPIPE|not queryable/i.test(`${detail} ${code}`);
  if (code.startsWith('57P') || code.startsWith('08') || broken)
    return say(502, 'source-lost', 'The source broke off the connection.', 'run again when it is back');
  return say(502, 'statement-failed', 'The source could not run the statement.');
}
