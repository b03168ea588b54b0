import type { Site } from '@cendra/core';
import { duckdb } from '@cendra/core';
import { connectorOf } from '../sources/connectors/registry';
import type { Given } from './work';

/** How statements are written at each place of a plan. */
export const dialectsOf = (kinds: Given['kinds']) => (site: Site) => {
  if (site.kind === 'combine') return duckdb;
  const kind = kinds[site.source];
  if (kind === undefined) throw new RangeError(`source ${site.source} is not among those of the work`);
  return connectorOf(kind).dialect;
};
