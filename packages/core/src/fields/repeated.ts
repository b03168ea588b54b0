import type { Place, Problem } from '../problem';
import { warning } from '../problem';

/** A sum of what may stand in several rows: `per` is what one row stands for. */
export const repeatedSum = (name: string, per: string, place: Place): Problem =>
  warning('sum-repeats', `${name} may stand once per ${per}, and its sum counts it each time.`, place, 'another figure of it');
