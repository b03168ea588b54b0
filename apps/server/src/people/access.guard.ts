import type { CanActivate, ExecutionContext, Type } from '@nestjs/common';
import { Injectable } from '@nestjs/common';
import { ModuleRef, Reflector } from '@nestjs/core';
import { refused, whileAway } from '../problems';
import type { Holding, PersonRequest } from './access';
import { ACCESS, CSRF_HEADER, NEEDS, SESSION_COOKIE } from './access';
import type { Person } from './person.entity';
import { RightsClock } from './rights-clock';
import { sameToken, SignInService } from './sign-in.service';

type Needed = readonly Type<Holding<unknown>>[];

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
    const found = await this.signedIn(request, allowed);
    const changes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
    if (changes && !sameToken(request.get(CSRF_HEADER) ?? '', found.csrf)) {
      throw refused(403, 'csrf-missing', 'The request did not come from a page of this session.', {}, `the header ${CSRF_HEADER}`);
    }
    request.person = found.person;
    request.csrf = found.csrf;
    const needs = this.needsOf(context);
    // Before it is asked, as rights may change between the answer and what is made of it.
    if (needs.length > 0) request.lost = this.lost(request, allowed, needs);
    request.held = await this.held(needs, found.person, request);
    return true;
  }

  /** Who asks, where they may use the route. */
  private async signedIn(request: PersonRequest, allowed: readonly string[]) {
    const cookies = request.cookies as Record<string, string | undefined>;
    const found = await this.signIns.whoIs(cookies[SESSION_COOKIE]);
    if (!found) {
      const to = 'to sign in again; nothing you typed is lost';
      throw refused(401, 'sign-in-needed', 'You are not signed in, or your session has ended.', {}, to);
    }
    if (!allowed.includes(found.person.role))
      throw refused(403, 'not-allowed', `This is not open to a ${found.person.role}.`, {}, allowed.join(' or '));
    return found;
  }

  /** What let the request in is asked again whenever rights change, until it is answered. */
  private lost(request: PersonRequest, allowed: readonly string[], needs: Needed): AbortSignal {
    const lost = new AbortController();
    const ask = async () => this.held(needs, (await this.signedIn(request, allowed)).person, request);
    const unhear = this.clock.onMoved(() => void whileAway(ask).catch((refusal: unknown) => lost.abort(refusal)));
    request.res?.once('close', unhear);
    return lost.signal;
  }

  private needsOf(context: ExecutionContext): Needed {
    const needs = this.reflector.getAllAndOverride<Needed | undefined>(NEEDS, [context.getHandler(), context.getClass()]);
    if (!needs) throw refused(403, 'not-allowed', 'This route does not say what it needs, so nobody may use it.');
    return needs;
  }

  private async held(needs: Needed, person: Person, request: PersonRequest): Promise<ReadonlyMap<unknown, unknown>> {
    const found = new Map<unknown, unknown>();
    for (const need of needs) found.set(need, await this.modules.get(need, { strict: false }).find(person, request));
    return found;
  }
}
