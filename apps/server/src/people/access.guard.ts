import type { CanActivate, ExecutionContext, Type } from '@nestjs/common';
import { Injectable } from '@nestjs/common';
import { ModuleRef, Reflector } from '@nestjs/core';
import { refused, whileAway } from '../problems';
import type { Holding, PersonRequest } from './access';
import { ACCESS, CSRF_HEADER, NEEDS, SESSION_COOKIE } from './access';
import type { Person } from './person.entity';
import { RightsClock } from './rights-clock';
import { sameToken, SignInService } from './sign-in.service';

/**
 * The one guard: who is asking, may they use this route, does a change come from our own pages, and do they hold the
 * sources of what it is about. A route that does not state its roles and its needs is refused to everybody.
 */
@Injectable()
export class AccessGuard implements CanActivate {
  constructor(
    private readonly reflector: Reflector,
    private readonly signIns: SignInService,
    private readonly modules: ModuleRef,
    private readonly clock: RightsClock,
  ) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const allowed = this.reflector.getAllAndOverride<string[] | undefined>(ACCESS, [context.getHandler(), context.getClass()]) ?? [];
    const request = context.switchToHttp().getRequest<PersonRequest>();
    if (allowed.includes('anyone')) return true;
    const found = await this.signedIn(request);
    if (!allowed.includes(found.person.role))
      throw refused(403, 'not-allowed', `This is not open to a ${found.person.role}.`, {}, allowed.join(' or '));
    const changes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
    if (changes && !sameToken(request.get(CSRF_HEADER) ?? '', found.csrf)) {
      throw refused(403, 'csrf-missing', 'The request did not come from a page of this session.', {}, `the header ${CSRF_HEADER}`);
    }
    request.person = found.person;
    request.csrf = found.csrf;
    request.held = await this.held(context, found.person, request);
    request.lost = this.lost(context, request);
    return true;
  }

  private async signedIn(request: PersonRequest) {
    const cookies = request.cookies as Record<string, string | undefined>;
    const found = await this.signIns.whoIs(cookies[SESSION_COOKIE]);
    if (found) return found;
    const to = 'to sign in again; nothing you typed is lost';
    throw refused(401, 'sign-in-needed', 'You are not signed in, or your session has ended.', {}, to);
  }

  /** What let the request in is asked again whenever rights change, until it is answered. */
  private lost(context: ExecutionContext, request: PersonRequest): AbortSignal {
    const lost = new AbortController();
    const ask = async () => this.held(context, (await this.signedIn(request)).person, request);
    const unhear = this.clock.onMoved(() => void whileAway(ask).catch((refusal: unknown) => lost.abort(refusal)));
    request.res?.once('close', unhear);
    return lost.signal;
  }

  private async held(context: ExecutionContext, person: Person, request: PersonRequest): Promise<ReadonlyMap<unknown, unknown>> {
    const at = [context.getHandler(), context.getClass()];
    const needs = this.reflector.getAllAndOverride<readonly Type<Holding<unknown>>[] | undefined>(NEEDS, at);
    if (!needs) throw refused(403, 'not-allowed', 'This route does not say what it needs, so nobody may use it.');
    const found = new Map<unknown, unknown>();
    for (const need of needs) found.set(need, await this.modules.get(need, { strict: false }).find(person, request));
    return found;
  }
}
