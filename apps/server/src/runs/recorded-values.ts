/** So many values of a parameter are kept with a run; of a longer list also how long it is. */
const MOST_RECORDED = 1_000;

const COUNT = /^… (\d+) values$/;

/** The values of a parameter as they are kept with a run. */
export const recordedValues = (values: readonly string[]): readonly string[] =>
  values.length > MOST_RECORDED ? [...values.slice(0, MOST_RECORDED), `… ${values.length} values`] : values;

/** How many there were of values that were too many to be kept; undefined where all of them are there. */
export const recordedCount = (kept: readonly string[]): string | undefined =>
  kept.length > MOST_RECORDED ? COUNT.exec(kept.at(-1) ?? '')?.[1] : undefined;
