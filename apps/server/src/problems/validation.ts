import { plainToInstance } from 'class-transformer';
import { validateSync } from 'class-validator';
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

/** What was given as an object of a class, by whose decorators it is checked; refused with what is wrong and where, beneath a pointer. */
export function checkedAs<T extends object>(of: new () => T, given: object, pointer: string): T {
  const made = plainToInstance(of, given);
  const errors = validateSync(made, { whitelist: true, forbidNonWhitelisted: true });
  if (errors.length === 0) return made;
  throw new ProblemException(
    400,
    errors.flatMap((error) => problemsIn(error, pointer)),
  );
}

function problemsIn(error: ValidationError, parent: string): ReturnType<typeof problem>[] {
  const pointer = `${parent}/${error.property}`;
  const own = Object.values(error.constraints ?? {}).map((message) =>
    problem('request-wrong', `${error.property} is not as it should be.`, { pointer }, message),
  );
  return [...own, ...(error.children ?? []).flatMap((child) => problemsIn(child, pointer))];
}
