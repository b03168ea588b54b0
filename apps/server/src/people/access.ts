import { createParamDecorator, SetMetadata } from '@nestjs/common';
import type { ExecutionContext, Type } from '@nestjs/common';
import type { Request } from 'express';
import type { Person, PersonRole } from './person.entity';

export const SESSION_COOKIE = 'cendra_session';
export const CSRF_HEADER = 'x-cendra-csrf';

export type PersonRequest = Request & {
  person?: Person;
  csrf?: string;
  held?: ReadonlyMap<unknown, unknown>;
  /** Aborted, with the refusal, when the person loses what the route needs while the request is under way; left out where it needs nothing. */
  lost?: AbortSignal;
};

export const ACCESS = 'access';

/** Who may use a route. Every route states it; the guard refuses one that does not. */
export const Access = (...roles: PersonRole[] | ['anyone']) => SetMetadata(ACCESS, roles);

/** The person the guard found. */
export const SignedInPerson = createParamDecorator(
  (_: unknown, context: ExecutionContext) => context.switchToHttp().getRequest<PersonRequest>().person,
);

/**
 * Something a route is about that stands on sources: a source, a dataset, a result, a run. It is found for a person
 * who holds all its sources at this moment, and refused to anybody else.
 */
export interface Holding<T> {
  find(person: Person, request: PersonRequest): Promise<T>;
}

export const NEEDS = 'needs';

/** What a route is about; the guard finds it before the route is entered, and refuses who lacks a source of it. */
export const Needs = (...holdings: readonly Type<Holding<unknown>>[]) => SetMetadata(NEEDS, holdings);

/** Says that a route tells nothing that comes from a source, or looks itself at what the person may see. */
export const NeedsNoSource = () => Needs();

/** What the guard found for one of the route's needs. */
export const Held = createParamDecorator((holding: Type<Holding<unknown>>, context: ExecutionContext) =>
  context.switchToHttp().getRequest<PersonRequest>().held?.get(holding),
);
