import type { Cluster } from '../scripts/setup/cluster';
import { asOwner } from '../scripts/setup/databases';
import type { RunningServer } from '../scripts/setup/server';
import { Client } from './client';
import { HEAVY } from './criteria';

const HEADS_RUN = 10;

/**
 * How often Cendra asks its own database from the click to the counts of a head run. A database adds up what a session did when
 * that ends, so servers are stopped in between: one that ran nothing, and one that ran so often.
 */
export async function ownQueries(cluster: Cluster, open: () => Promise<RunningServer>): Promise<number> {
  const askedAfter = async (runs: number) => {
    const server = await open();
    const client = await Client.signIn(server.address);
    const dataset = await client.readings(HEAVY);
    for (let count = 0; count <= runs; count++) {
      await client.run(dataset, 'head');
      await client.quiet();
    }
    await server.stop();
    return asOwner(cluster, 'postgres', async (owner) => {
      const { rows } = await owner.query<{ n: string }>("select xact_commit n from pg_stat_database where datname = 'cendra'");
      return Number(rows[0]?.n);
    });
  };
  const before = await askedAfter(0);
  const once = await askedAfter(0);
  const often = await askedAfter(HEADS_RUN);
  return (often - once - (once - before)) / HEADS_RUN;
}
