import same from 'react-fast-compare';
import type { Bench } from './use-bench';

interface OfBench {
  readonly bench: Bench;
}

/**
 * Whether a part of the bench would show what it shows already: of the same bench, which is remembered until something of
 * it is other, and with everything else alike. Acts have to be steady for that.
 */
export function showsSame<Props extends OfBench>({ bench: shown, ...before }: Props, { bench, ...after }: Props): boolean {
  return shown === bench && same(before, after);
}
