import type { Problem } from '@cendra/core';

/** What went wrong with a request, as the screens show it. */
export interface Failure {
  readonly status: number;
  readonly problems: readonly Problem[];
  /** The source's or engine's own message. */
  readonly detail?: string;
}

/** The failure inside an error of the API client; a network error has status 0. */
export function failureOf(error: unknown): Failure | undefined {
  if (error === undefined || error === null) return undefined;
  const { status, data } = error as { status?: unknown; data?: unknown };
  const body = (typeof data === 'string' ? parse(data) : data) as { problems?: Problem[]; detail?: string } | undefined;
  const code = typeof status === 'number' ? status : ((error as { originalStatus?: number }).originalStatus ?? 0);
  if (body?.problems && body.problems.length > 0)
    return body.detail === undefined
      ? { status: code, problems: body.problems }
      : { status: code, problems: body.problems, detail: body.detail };
  const message =
    code === 0
      ? 'The server does not answer. What you typed is kept; it is tried again.'
      : 'The server gave an answer that could not be read.';
  return { status: code, problems: [{ code: code === 0 ? 'server-silent' : 'unexpected', severity: 'error', message, place: {} }] };
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
