import { DATES } from './dates';
import { FORMATS } from './format';
import { NUMBERS } from './numbers';
import { READING } from './read';
import type { FunctionSpec } from './spec';
import { NULLS, TEXTS } from './text';

/** Every function of a single row, in the order of the documentation. */
export const FUNCTIONS: readonly FunctionSpec[] = [...NUMBERS, ...TEXTS, ...NULLS, ...DATES, ...FORMATS, ...READING];

const BY_NAME = new Map(FUNCTIONS.map((each) => [each.name, each]));

export const functionByName = (name: string): FunctionSpec | undefined => BY_NAME.get(name);

export { MONTHS, readDatePattern, WEEKDAYS } from './date-pattern';
export type { DatePart } from './date-pattern';
export { readNumberPattern } from './number-pattern';
export type { NumberPattern } from './number-pattern';
export type { FunctionGroup, FunctionSpec, Operands } from './spec';
