import { lookup } from 'node:dns/promises';

/** Where a PostgreSQL database is, and who reads there. */
export interface PostgresqlSettings {
  readonly host: string;
  readonly port: number;
  readonly database: string;
  readonly user: string;
  readonly tls: 'off' | 'required' | 'verified';
}

/** The settings among what came over the wire, where it was checked already. */
export function settingsOf(given: object): PostgresqlSettings {
  const { host, port, database, user, tls } = given as PostgresqlSettings;
  return { host, port, database, user, tls };
}

export const loginOf = ({ host, port, database, user }: PostgresqlSettings) => `${user}@${host}:${port}/${database}`;

export const secretGoesTo = ({ host, port, user }: PostgresqlSettings) => `${user}@${host}:${port}`;

/** Compared by resolved address, port and name. */
export async function isAt(settings: PostgresqlSettings, address: string): Promise<boolean> {
  const other = new URL(address);
  if (Number(other.port) !== settings.port || decodeURIComponent(other.pathname.slice(1)) !== settings.database) return false;
  const [one, two] = await Promise.all([other.hostname, settings.host].map(resolved));
  return one === two || (isLoopback(one) && isLoopback(two));
}

const resolved = (host: string) =>
  lookup(host).then(
    ({ address }) => address,
    () => host,
  );

const isLoopback = (address: string | undefined) => address === '::1' || address?.startsWith('127.') === true;
