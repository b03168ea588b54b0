import type { ArgumentsHost, ExceptionFilter } from '@nestjs/common';
import { Catch, HttpException, Logger } from '@nestjs/common';
import type { Problem } from '@cendra/core';
import { problem, ProblemError } from '@cendra/core';
import type { Response } from 'express';
import { isAway, ownDatabaseAway } from './own-database';
import { isNoRoom, isOwnDisk, ownDisk } from './own-disk';
import { ProblemException, statusOf } from './problem.exception';

/** The wire form of every error (RFC 9457): `type` is the code, `problems` carries place and expectation. */
interface ProblemDocument {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail?: string;
  readonly problems: readonly Problem[];
}

@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly log = new Logger('problems');

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const { lost } = host.switchToHttp().getRequest<{ lost?: AbortSignal }>();
    // What was broken off because a right was lost failed for that reason, whatever else it says.
    const document = this.document(lost?.aborted ? lost.reason : error);
    if (response.headersSent) {
      response.destroy();
      return;
    }
    response.status(document.status).type('application/problem+json').send(JSON.stringify(document));
  }

  private document(error: unknown): ProblemDocument {
    if (error instanceof ProblemException) return asDocument(error.getStatus(), error.problems, error.detail);
    if (error instanceof ProblemError) return asDocument(statusOf(error.problems), error.problems);
    if (error instanceof HttpException) return fromHttp(error);
    if (isBodyError(error))
      return asDocument(error.status, [
        problem('request-unreadable', error.status === 413 ? 'The request is larger than allowed.' : 'The request could not be read.'),
      ]);
    if (isAway(error)) return asDocument(503, [ownDatabaseAway()]);
    if (!isNoRoom(error)) this.log.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    if (isOwnDisk(error)) return this.document(ownDisk(error));
    return asDocument(500, [problem('unexpected', 'Something went wrong on the server. Nothing was changed; try again.')]);
  }
}

function asDocument(status: number, problems: readonly Problem[], detail?: string): ProblemDocument {
  const [first] = problems;
  return {
    type: first?.code ?? 'unexpected',
    title: first?.message ?? 'Something is wrong.',
    status,
    ...(detail === undefined ? {} : { detail }),
    problems,
  };
}

const CODES: Record<number, string> = {
  400: 'request-wrong',
  401: 'sign-in-needed',
  403: 'not-allowed',
  404: 'not-found',
  413: 'request-too-large',
  429: 'too-many',
};

function fromHttp(error: HttpException): ProblemDocument {
  const status = error.getStatus();
  const message = status === 429 ? 'Too many tries in a short time. Wait a minute.' : error.message;
  return asDocument(status, [problem(CODES[status] ?? 'request-wrong', message)]);
}

function isBodyError(error: unknown): error is Error & { status: number } {
  return error instanceof Error && 'status' in error && typeof error.status === 'number' && error.status >= 400 && error.status < 500;
}
