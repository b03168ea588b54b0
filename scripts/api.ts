import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildServer } from './setup/build';
import { startCluster } from './setup/cluster';
import { ensureOwnDatabase } from './setup/databases';
import { root } from './setup/root';
import { main, say, SetupError } from './setup/say';
import { startServer } from './setup/server';

/** Writes the server's OpenAPI document and generates the web's client from it. */
main(async () => {
  buildServer();
  const folder = mkdtempSync(join(tmpdir(), 'cendra-api-'));
  const cluster = await startCluster(folder, true);
  try {
    const server = await startServer({ cluster, database: await ensureOwnDatabase(cluster, 'cendra'), dataFolder: join(folder, 'server') });
    const document: unknown = await (await fetch(`${server.address}/api/openapi.json`)).json();
    await server.stop();
    writeFileSync(join(root, 'apps/server/openapi.json'), `${JSON.stringify(document, null, 2)}\n`);
  } finally {
    cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  const made = spawnSync(join(root, 'node_modules/.bin/rtk-query-codegen-openapi'), ['api.config.cjs'], {
    cwd: join(root, 'apps/web'),
    stdio: 'inherit',
  });
  if (made.status !== 0) throw new SetupError('Generating the client', 'the generator complained above.', 'mend the DTOs it names.');
  spawnSync(
    join(root, 'node_modules/.bin/prettier'),
    ['--write', '--log-level', 'warn', 'apps/server/openapi.json', 'apps/web/src/api/client.gen.ts'],
    { cwd: root, stdio: 'inherit' },
  );
  say('The client is up to date.');
});
