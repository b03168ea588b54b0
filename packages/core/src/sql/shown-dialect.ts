import type { Dialect } from './dialect';
import { duckdb } from './duckdb';
import { postgresql } from './postgresql';

/** By the kind of a source, how its statements are written where people read them. */
const BY_KIND: Readonly<Record<string, Dialect>> = { postgresql: postgresql('numbered') };

/** The dialect of a kind of source as it is shown; without a kind, that of the combine engine. */
export function shownDialect(kind: string | undefined): Dialect {
  const dialect = kind === undefined ? duckdb : BY_KIND[kind];
  if (!dialect) throw new RangeError(`there is no dialect for ${kind}`);
  return dialect;
}
