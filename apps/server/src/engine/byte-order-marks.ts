import * as reading from '@duckdb/node-api/lib/vectors/dataAccessors';

/**
 * The engine's reader takes a byte order mark that a text begins with for a sign of its own and drops it. The texts it gives
 * are values: they are given whole. Imported for its effect, before anything is read.
 */
Object.assign(reading, { textDecoder: new TextDecoder('utf-8', { ignoreBOM: true }) });
