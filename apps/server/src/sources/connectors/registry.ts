import type { Connector } from './connector';
import { postgresqlConnector } from './postgresql';

/** One line per kind of source. */
const CONNECTORS: Readonly<Record<string, Connector>> = { postgresql: postgresqlConnector };

export const SOURCE_KINDS = Object.keys(CONNECTORS);
/** What settings can be, over all kinds. */
export const SETTINGS_OF_KINDS = Object.values(CONNECTORS).map((each) => each.settings);

/** Says to all of them how Cendra's own database is asked, so that it is never a source. */
export function guardOwnDatabase(ask: (text: string) => Promise<string | undefined>): void {
  for (const each of Object.values(CONNECTORS)) each.guardOwn?.(ask);
}

export function connectorOf(kind: string): Connector {
  const connector = CONNECTORS[kind];
  if (!connector) throw new RangeError(`there is no connector for ${kind}`);
  return connector;
}
