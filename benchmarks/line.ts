import { say } from '../scripts/setup/say';

/** One figure beside its reference. */
export interface Line {
  readonly what: string;
  readonly cendra: number;
  readonly reference: number;
  readonly unit: 'ms' | 'MB' | 's' | '';
  /** What the figure must be at most, given the reference. */
  readonly most: number;
  readonly rule: string;
}

/** All lines as a table. */
export function print(lines: readonly Line[]): void {
  const text = (value: number) => (value >= 100 ? value.toFixed(0) : value.toFixed(2));
  say(`\n${'what'.padEnd(50)}${'Cendra'.padStart(10)}${'reference'.padStart(12)}${'ratio'.padStart(8)}   must be`);
  for (const { what, cendra, reference, unit, most, rule } of lines) {
    const ratio = reference > 0 ? (cendra / reference).toFixed(2) : '';
    say(
      `${what.padEnd(50)}${`${text(cendra)} ${unit}`.padStart(10)}${`${text(reference)} ${unit}`.padStart(12)}${ratio.padStart(8)}   ${rule}${cendra <= most ? '' : '   NOT MET'}`,
    );
  }
}
