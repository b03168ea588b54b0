import { connect, createServer } from 'node:net';
import type { Server, Socket } from 'node:net';
import { cluster } from './cluster';

export interface Relay {
  readonly port: number;
  /** Breaks every connection off and takes no new ones. */
  cut(): void;
  /** Keeps connections and lets no byte of the far side through. */
  stall(): void;
  /** Lets bytes through again, and connections in. */
  goOn(): Promise<void>;
}

const relays: Relay[] = [];

export function closeRelays(): void {
  for (const each of relays.splice(0)) each.cut();
}

/** Passes bytes on to the test cluster, many of them slowly, until it cuts or stalls. */
export async function relay(): Promise<Relay> {
  const sockets = new Set<Socket>();
  const held: (() => void)[] = [];
  let stalled = false;
  let server: Server | undefined;
  const begin = async (port: number): Promise<number> => {
    const begun = createServer((near) => {
      const far = connect(cluster.port, '127.0.0.1');
      for (const socket of [near, far]) {
        sockets.add(socket);
        socket.on('error', () => undefined).on('close', () => (sockets.delete(socket), near.destroy(), far.destroy()));
      }
      near.on('data', (chunk) => far.write(chunk));
      far.on('data', (chunk) => {
        far.pause();
        const pass = () => setTimeout(() => near.write(chunk, () => far.resume()), chunk.length > 4_000 ? 4 : 0);
        if (stalled) held.push(pass);
        else pass();
      });
    });
    await new Promise<void>((resolve) => begun.listen(port, '127.0.0.1', () => resolve()));
    server = begun;
    return (begun.address() as { port: number }).port;
  };
  const port = await begin(0);
  const made: Relay = {
    port,
    cut: () => {
      server?.close();
      server = undefined;
      for (const each of sockets) each.destroy();
    },
    stall: () => void (stalled = true),
    goOn: async () => {
      stalled = false;
      for (const pass of held.splice(0)) pass();
      if (!server) await begin(port);
    },
  };
  relays.push(made);
  return made;
}
