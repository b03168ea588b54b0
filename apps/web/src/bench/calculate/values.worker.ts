import { expose } from 'comlink';
import { liveValues, traceOf, verdictOf } from './values';

/** Checks and values of expressions, off the main thread so that typing never waits. */
const calculation = { verdictOf, liveValues, traceOf };
export type Calculation = typeof calculation;

expose(calculation);
