import { createParamDecorator, SetMetadata } from '@nestjs/common';
import type { ExecutionContext } from '@nestjs/common';
import type { Request } from 'express';
import type { Person, PersonRole } from './person.entity';

export const SESSION_COOKIE = 'cendra_session';
export const CSRF_HEADER = 'x-cendra-csrf';

export type PersonRequest = Request & { person?: Person; csrf?: string };

export const ACCESS = 'access';

/** Who may use a route. Every route states it; the guard refuses one that does not. */
export const Access = (...roles: PersonRole[] | ['anyone']) => SetMetadata(ACCESS, roles);

/** The person the guard found. */
export const SignedInPerson = createParamDecorator(
  (_: unknown, context: ExecutionContext) => context.switchToHttp().getRequest<PersonRequest>().person,
);
