import type { CanActivate, ExecutionContext } from '@nestjs/common';
import { Injectable } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import { refused } from '../problems';
import type { PersonRequest } from './access';
import { ACCESS, CSRF_HEADER, SESSION_COOKIE } from './access';
import { sameToken, SignInService } from './sign-in.service';

/** The one guard: who is asking, may they use this route, and does a change come from our own pages. */
@Injectable()
export class AccessGuard implements CanActivate {
  constructor(
    private readonly reflector: Reflector,
    private readonly signIns: SignInService,
  ) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const allowed = this.reflector.getAllAndOverride<string[] | undefined>(ACCESS, [context.getHandler(), context.getClass()]) ?? [];
    const request = context.switchToHttp().getRequest<PersonRequest>();
    if (allowed.includes('anyone')) return true;
    const cookies = request.cookies as Record<string, string | undefined>;
    const found = await this.signIns.whoIs(cookies[SESSION_COOKIE]);
    if (!found)
      throw refused(
        401,
        'sign-in-needed',
        'You are not signed in, or your session has ended.',
        {},
        'to sign in again; nothing you typed is lost',
      );
    if (!allowed.includes(found.person.role))
      throw refused(403, 'not-allowed', `This is not open to a ${found.person.role}.`, {}, allowed.join(' or '));
    const changes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
    if (changes && !sameToken(request.get(CSRF_HEADER) ?? '', found.csrf)) {
      throw refused(403, 'csrf-missing', 'The request did not come from a page of this session.', {}, `the header ${CSRF_HEADER}`);
    }
    request.person = found.person;
    request.csrf = found.csrf;
    return true;
  }
}
