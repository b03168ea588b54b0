import { HttpException } from '@nestjs/common';
import type { Place, Problem } from '@cendra/core';
import { problem } from '@cendra/core';

/** An answer that is a problem: HTTP status, and core's typed problems inside. */
export class ProblemException extends HttpException {
  constructor(
    status: number,
    readonly problems: readonly Problem[],
    /** The engine's or driver's own message, one click away on the screen. Never holds a secret. */
    readonly detail?: string,
  ) {
    super(problems[0]?.message ?? 'Something is wrong.', status);
  }
}

export function refused(
  status: number,
  code: string,
  message: string,
  place: Place = {},
  expected?: string,
  detail?: string,
): ProblemException {
  return new ProblemException(status, [problem(code, message, place, expected)], detail);
}

/** How problems of core are answered: an edit that cannot be read, one that expects something else, and what does not fit. */
export function statusOf(problems: readonly Problem[]): number {
  const told = new Set(problems.map((each) => each.code));
  return told.has('edit-unreadable') ? 400 : told.has('edit-conflict') ? 409 : 422;
}

export const notFound = (what: string) => refused(404, 'not-found', `There is no such ${what}, or you may not see it.`);
