import type { Connector } from './connector';
import { postgresqlConnector } from './postgresql';

/** One line per kind of source. */
const CONNECTORS: Readonly<Record<string, Connector>> = { postgresql: postgresqlConnector };

export const SOURCE_KINDS = Object.keys(CONNECTORS);
/** What settings can be, over all kinds. */
export const SETTINGS_OF_KINDS = Object.values(CONNECTORS).map((each) => each.settings);

export function connectorOf(kind: string): Connector {
  const connector = CONNECTORS[kind];
  if (!connector) throw new RangeError(`there is no connector for ${kind}`);
  return connector;
}
