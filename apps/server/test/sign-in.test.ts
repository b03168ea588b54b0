import type { ProblemBody } from './support/cendra';
import { SignInTries } from '../src/people/sign-in-tries';
import { Cendra, Person } from './support/cendra';

let cendra: Cendra;
beforeAll(async () => void (cendra = await Cendra.start()));
afterAll(() => cendra.stop());

const enter = (body: unknown) =>
  fetch(`${cendra.address}/api/sign-in`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const problemOf = async (response: Response) => (await response.json()) as ProblemBody;

test.each([
  ['a wrong password', { name: 'analyst', password: 'wrong' }],
  ['an unknown name', { name: 'nobody', password: 'thistle-analyst' }],
])('%s is refused without saying which was wrong', async (_, body) => {
  const response = await enter(body);
  expect(response.status).toBe(401);
  expect(response.headers.get('content-type')).toContain('application/problem+json');
  expect((await problemOf(response)).title).toBe('The name or the password is wrong.');
  expect(response.headers.get('set-cookie')).toBeNull();
});

test.each([
  ['no password', { name: 'analyst' }, '/password'],
  ['a number as name', { name: 5, password: 'x' }, '/name'],
  ['something not asked for', { name: 'a', password: 'b', role: 'steward' }, '/role'],
])('%s is answered at its place', async (_, body, pointer) => {
  const response = await enter(body);
  expect(response.status).toBe(400);
  expect((await problemOf(response)).problems.map((each) => each.place.pointer)).toContain(pointer);
});

test('a request that is no JSON, and one that is too large, are refused in the same form', async () => {
  const broken = await fetch(`${cendra.address}/api/sign-in`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: '{"name": ',
  });
  expect([broken.status, (await problemOf(broken)).type]).toEqual([400, 'request-wrong']);
  const large = await enter({ name: 'x'.repeat(5_000_000), password: 'x' });
  expect(large.status).toBe(413);
});

test('a session is an HttpOnly cookie, ends with signing out, and is worth nothing without its token on changes', async () => {
  const response = await enter({ name: 'steward', password: 'thistle-steward' });
  expect(response.headers.get('set-cookie')).toMatch(/HttpOnly.*SameSite=Strict/i);
  const steward = await cendra.signIn('steward');
  const forged = new Person(() => cendra.address, steward.id, steward.cookie, 'guessed');
  expect((await forged.ask('GET', '/me')).status).toBe(200);
  const refused = await forged.ask<ProblemBody>('POST', '/sign-out');
  expect([refused.status, refused.body.type]).toEqual([403, 'csrf-missing']);
  expect((await steward.ask('POST', '/sign-out')).status).toBe(204);
  expect((await steward.ask<ProblemBody>('GET', '/me')).body.type).toBe('sign-in-needed');
});

test('what only stewards may do is refused to others, and readers reach no dataset', async () => {
  const [analyst, reader] = [await cendra.signIn('analyst'), await cendra.signIn('reader')];
  for (const path of ['/people', '/audit', '/limits']) expect((await analyst.ask('GET', path)).status).toBe(403);
  for (const path of ['/datasets', '/sources', '/runs']) expect((await reader.ask('GET', path)).status).toBe(403);
});

test('the limits are shown to the steward with what they mean', async () => {
  const limits = await (await cendra.signIn('steward')).get<{ name: string; value: number; says: string }[]>('/limits');
  expect(limits.find((each) => each.name === 'headRows')).toMatchObject({ value: 1000, says: 'rows of a head run' });
});

test('answers carry the headers that keep foreign pages out', async () => {
  const { headers } = await fetch(`${cendra.address}/api/health`);
  expect(headers.get('content-security-policy')).toContain("script-src 'self'");
  expect(headers.get('x-powered-by')).toBeNull();
});

test('wrong passwords slow down their own name and nobody else, also when many are sent at once', async () => {
  const answers = await Promise.all(Array.from({ length: 12 }, () => enter({ name: 'analyst', password: 'wrong' })));
  const statuses = answers.map((each) => each.status);
  expect([statuses.filter((each) => each === 401).length, statuses.filter((each) => each === 429).length]).toEqual([5, 7]);
  expect((await enter({ name: 'steward', password: 'thistle-steward' })).status).toBe(200);
});

describe('tries of a name at an address', () => {
  const trying = () => {
    const clock = { now: 0 };
    const tries = new SignInTries(() => clock.now);
    const wrong = (times: number, name = 'a') => {
      for (let count = 0; count < times; count++) tries.begun(name, 'here');
    };
    return { clock, tries, wrong };
  };

  test('wait twice as long after each further wrong one, up to five minutes', () => {
    const { tries, wrong } = trying();
    const waits = Array.from({ length: 16 }, () => (wrong(1), tries.wait('a', 'here')));
    expect(waits).toEqual([0, 0, 0, 0, 1_000, 2_000, 4_000, 8_000, 16_000, 32_000, 64_000, 128_000, 256_000, 300_000, 300_000, 300_000]);
  });

  test('are those of this name here, however it is spelt', () => {
    const { tries, wrong } = trying();
    wrong(6);
    expect([tries.wait('A', 'here') > 0, tries.wait('b', 'here'), tries.wait('a', 'elsewhere')]).toEqual([true, 0, 0]);
  });

  test('may go on when the time is over, and begin anew after a right one', () => {
    const { clock, tries, wrong } = trying();
    wrong(6);
    clock.now = 2_000;
    expect(tries.wait('a', 'here')).toBe(0);
    tries.succeeded('a', 'here');
    wrong(4);
    expect(tries.wait('a', 'here')).toBe(0);
  });

  test('are forgotten when very many others came after them', () => {
    const { tries, wrong } = trying();
    wrong(9);
    for (let other = 0; other < 10_000; other++) wrong(1, `n${other}`);
    expect(tries.wait('a', 'here')).toBe(0);
  });
});

test('without demo mode no sign-in is offered and none of the demo works', async () => {
  const plain = await Cendra.start({ demoPassword: undefined });
  try {
    expect(await (await fetch(`${plain.address}/api/demo-sign-ins`)).json()).toEqual([]);
    await expect(plain.signIn('steward')).rejects.toThrow('401');
  } finally {
    await plain.stop();
  }
});
