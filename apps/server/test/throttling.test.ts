import { Cendra } from './support/cendra';

/** Requests are counted per session, so that an office behind one address is not one person. */

test('one session that asks without end is slowed down, and others from the same address are not', async () => {
  const cendra = await Cendra.start();
  try {
    const [analyst, other] = [await cendra.signIn('analyst'), await cendra.signIn('analyst')];
    const asking = async (times: number) => {
      for (let asked = 0; asked < times; asked++) if ((await analyst.ask('GET', '/me')).status === 429) return asked;
      return undefined;
    };
    const stopped = await Promise.all(Array.from({ length: 20 }, () => asking(310)));
    expect(stopped.some((each) => each !== undefined)).toBe(true);
    expect((await analyst.ask('GET', '/me')).status).toBe(429);
    expect((await other.ask('GET', '/me')).status).toBe(200);
  } finally {
    await cendra.stop();
  }
});
