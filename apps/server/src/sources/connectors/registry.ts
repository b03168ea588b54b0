import type { Connector } from './connector';
import { postgresqlConnector } from './postgresql';

/** One line per kind of source. */
const CONNECTORS: Readonly<Record<string, Connector>> = { postgresql: postgresqlConnector };

export function connectorOf(kind: string): Connector {
  const connector = CONNECTORS[kind];
  if (!connector) throw new RangeError(`there is no connector for ${kind}`);
  return connector;
}
