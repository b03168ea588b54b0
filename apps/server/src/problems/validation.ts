import { ValidationPipe } from '@nestjs/common';
import type { ValidationError } from 'class-validator';
import { problem } from '@cendra/core';
import { ProblemException } from './problem.exception';

/** Bodies and queries are checked against their DTO; each wrong property becomes a problem with its pointer. */
export const validation = new ValidationPipe({
  whitelist: true,
  forbidNonWhitelisted: true,
  transform: true,
  exceptionFactory: (errors) =>
    new ProblemException(
      400,
      errors.flatMap((error) => problemsIn(error, '')),
    ),
});

function problemsIn(error: ValidationError, parent: string): ReturnType<typeof problem>[] {
  const pointer = `${parent}/${error.property}`;
  const own = Object.values(error.constraints ?? {}).map((message) =>
    problem('request-wrong', `${error.property} is not as it should be.`, { pointer }, message),
  );
  return [...own, ...(error.children ?? []).flatMap((child) => problemsIn(child, pointer))];
}
