import 'reflect-metadata';
import { Get } from '@nestjs/common';
import type { DynamicModule, ExecutionContext, Type } from '@nestjs/common';
import type { ModuleRef } from '@nestjs/core';
import { Reflector } from '@nestjs/core';
import { AppModule } from '../src/app.module';
import { Access, Needs, NeedsNoSource, RightsClock } from '../src/people';
import { ACCESS, NEEDS } from '../src/people/access';
import { AccessGuard } from '../src/people/access.guard';
import type { SignInService } from '../src/people/sign-in.service';
import { readSettings } from '../src/settings';
import { cluster, folderFor } from './support/cluster';

/** A route that does not say who may use it and whose sources it needs is open to nobody, and there is none. */

type Module = Type | DynamicModule;

function controllersOf(given: Module, seen = new Set<unknown>()): readonly Type[] {
  const [module, dynamic] = 'module' in given ? [given.module, given] : [given, undefined];
  if (seen.has(module)) return [];
  seen.add(module);
  const own = [...listed<Type>('controllers', module), ...(dynamic?.controllers ?? [])];
  const imports = [...listed<Module>('imports', module), ...((dynamic?.imports ?? []) as Module[])];
  return [...own, ...imports.filter((each) => typeof each === 'function' || 'module' in each).flatMap((each) => controllersOf(each, seen))];
}

const listed = <T>(key: string, module: Type) => (Reflect.getMetadata(key, module) ?? []) as readonly T[];

interface Route {
  readonly name: string;
  readonly controller: Type;
  readonly handler: object;
}

function routesOf(controller: Type): readonly Route[] {
  return Object.getOwnPropertyNames(controller.prototype).flatMap((name) => {
    const handler = (controller.prototype as Record<string, object>)[name];
    return name !== 'constructor' && handler && Reflect.hasMetadata('path', handler)
      ? [{ name: `${controller.name}.${name}`, controller, handler }]
      : [];
  });
}

const reflector = new Reflector();
const stated = (key: string, { handler, controller }: Route): unknown => reflector.getAllAndOverride(key, [handler, controller] as never);

const settings = readSettings({ CENDRA_DATABASE: cluster.url('postgres'), CENDRA_DATA: folderFor('routes') });
const routes = controllersOf(AppModule.with(settings)).flatMap(routesOf);

test('there are routes to look at', () => {
  expect(routes.length).toBeGreaterThan(40);
});

test.each(routes.map((each) => [each.name, each] as const))('%s says who may use it and what it needs', (_name, route) => {
  const roles = stated(ACCESS, route) as readonly string[] | undefined;
  expect(roles?.length).toBeGreaterThan(0);
  if (!roles?.includes('anyone')) expect(stated(NEEDS, route)).toBeDefined();
});

class Forgetful {
  @Get() @NeedsNoSource() withoutRoles() {
    return 'rows';
  }
  @Get() @Access('analyst') withoutNeeds() {
    return 'rows';
  }
  @Get() @Access('analyst') @Needs() whole() {
    return 'rows';
  }
}

async function enters(handler: () => string): Promise<unknown> {
  const signIns = { whoIs: () => Promise.resolve({ person: { id: 'p', role: 'analyst' }, csrf: 'c' }) } as unknown as SignInService;
  const guard = new AccessGuard(reflector, signIns, {} as ModuleRef, new RightsClock());
  const request = { method: 'GET', cookies: {} };
  const context = { getHandler: () => handler, getClass: () => Forgetful, switchToHttp: () => ({ getRequest: () => request }) };
  return guard
    .canActivate(context as unknown as ExecutionContext)
    .catch((error: { problems: readonly { code: string }[] }) => error.problems[0]?.code);
}

test('a new route that forgets either is refused to everybody', async () => {
  const { withoutRoles, withoutNeeds, whole } = Forgetful.prototype;
  expect([await enters(withoutRoles), await enters(withoutNeeds), await enters(whole)]).toEqual(['not-allowed', 'not-allowed', true]);
});
