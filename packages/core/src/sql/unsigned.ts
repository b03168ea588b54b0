import type { FieldType } from '../fields';

/** One of equal values, whichever an engine has picked: of the two floating zeros the one without a sign. */
export const unsigned = (type: FieldType, sql: string): string => (type.kind === 'float' ? `(${sql} + 0)` : sql);
