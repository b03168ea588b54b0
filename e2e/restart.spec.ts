import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../scripts/setup/cluster';
import { asOwner, ensureOwnDatabase } from '../scripts/setup/databases';
import { startServer } from '../scripts/setup/server';
import { supervised } from '../scripts/setup/supervised';
import { newDataset } from './bench-steps';
import { accessible, cluster, demo, expect, test } from './support';

/** A server that ends is started again: the screen says so meanwhile, and what was typed is not lost. */

test('the screen says that the server does not answer, keeps what is typed, and says why it was started again', async ({ page }) => {
  const name = `cendra_restart_${process.pid}`;
  const common = {
    cluster,
    database: await ensureOwnDatabase(cluster, name),
    dataFolder: mkdtempSync(join(tmpdir(), 'cendra-e2e-')),
    demoPassword: demo.password,
    webFolder: join(process.cwd(), 'apps/web/dist'),
    logLevel: 'error',
    port: await freePort(),
  };
  // Long enough for something to be typed meanwhile.
  const pauses = { first: 4_000, longest: 4_000 };
  const server = await supervised((ended) => startServer(ended === undefined ? common : { ...common, endedBefore: ended }), {
    pauses,
    say: () => undefined,
  });
  try {
    await page.goto(server.address);
    await page.getByRole('button', { name: 'Sign in as the demo analyst' }).click();
    await newDataset(page);
    server.process.kill('SIGKILL');
    await page.getByLabel('Title of the dataset').fill('Worth delivering, typed meanwhile');
    await page.keyboard.press('Tab');
    await expect(page.getByText('The server does not answer.')).toBeVisible();
    await accessible(page);
    await expect(page.getByText('The server was started again: the one before ended, it was stopped by SIGKILL.')).toBeVisible({
      timeout: 30_000,
    });
    await page.getByRole('button', { name: 'All right' }).click();
    await expect(page.getByText('The server was started again')).toHaveCount(0);
    // What waited is sent once the server answers, and only while its dataset is open.
    await expect(page.getByText(/^draft r\d+, saved/)).toBeVisible({ timeout: 20_000 });
    await expect(async () => {
      await page.goto(`${server.address}/datasets`);
      await expect(page.getByText('Worth delivering, typed meanwhile')).toBeVisible({ timeout: 2_000 });
    }).toPass({ timeout: 20_000 });
  } finally {
    await server.stop();
    await asOwner(cluster, 'postgres', (client) => client.query(`drop database ${name} with (force)`));
  }
});
