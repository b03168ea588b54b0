import type { Definition, GivenValues } from '@cendra/core';

/**
 * Everything of a dataset its rows depend on, as one text: labels, formats, the proof's layout and names of steps are
 * not among it. While it stays the same, a result made earlier is still the result.
 */
export function rowsDependOn({ steps, parameters, calendar }: Definition, values: GivenValues): string {
  return JSON.stringify([
    steps.map((each) => ({ ...each, name: '' })),
    parameters.map(({ id, type, takes, leftBlank }) => [id, type, takes, leftBlank]),
    calendar,
    values,
  ]);
}
