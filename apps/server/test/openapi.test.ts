import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Cendra } from './support/cendra';

test('the committed description of the API is the one the server gives', async () => {
  const cendra = await Cendra.start();
  try {
    const served: unknown = await (await fetch(`${cendra.address}/api/openapi.json`)).json();
    const committed: unknown = JSON.parse(readFileSync(join(process.cwd(), 'apps/server/openapi.json'), 'utf8'));
    expect(served).toEqual(committed);
    expect((await fetch(`${cendra.address}/api/docs`)).status).toBe(200);
  } finally {
    await cendra.stop();
  }
});
