import { spawn } from 'node:child_process';
import type { RunningServer } from '../../../../scripts/setup/server';
import { supervised } from '../../../../scripts/setup/supervised';
import { eventually } from '../support/cendra';

/** `npm start` keeps a server running: one that ended is started again, and why it ended is said. */

const SHORT = { first: 20, longest: 80 };

function starting(refusals = 0) {
  const said: string[] = [];
  const begun: RunningServer[] = [];
  let refused = 0;
  const start = async (): Promise<RunningServer> => {
    if (begun.length > 0 && refused++ < refusals) throw new Error('the port is taken.');
    const child = spawn('sleep', ['600']);
    const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
    const server: RunningServer = { address: 'here', process: child, stop: async () => (child.kill(), ended) };
    begun.push(server);
    return server;
  };
  return { start, begun, said, supervision: { pauses: SHORT, say: (text: string) => void said.push(text) } };
}

test('a server that was killed runs again, and a stop is a stop', async () => {
  const { start, begun, said, supervision } = starting();
  const server = await supervised(start, supervision);
  for (const times of [1, 2]) {
    server.process.kill('SIGKILL');
    await eventually('it runs again', async () => begun.length === times + 1 && server.process === begun[times]?.process);
  }
  expect(said.filter((each) => each.startsWith('The server ended'))).toEqual([
    'The server ended: it was stopped by SIGKILL. It is started again in 0 s.',
    expect.stringMatching('SIGKILL') as string,
  ]);
  await server.stop();
  expect([begun.length, server.process.signalCode]).toEqual([3, 'SIGTERM']);
});

test('one that cannot start is tried until it can', async () => {
  const { start, begun, said, supervision } = starting(3);
  const server = await supervised(start, supervision);
  server.process.kill('SIGKILL');
  await eventually('it runs again', async () => begun.length === 2);
  expect(said.filter((each) => each.includes('could not be started'))).toHaveLength(3);
  await server.stop();
});

test('a stop while it waits to start again starts nothing', async () => {
  const { start, begun, said, supervision } = starting();
  const server = await supervised(start, { ...supervision, pauses: { first: 60_000, longest: 60_000 } });
  server.process.kill('SIGKILL');
  await eventually('its end was heard', async () => said.length > 0);
  await server.stop();
  expect(begun).toHaveLength(1);
});
