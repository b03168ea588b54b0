import type { GroupKey } from './relation';

/** Groups by fewer and fewer keys: what they are grouped by, and how many keys a group has, `over` being the keys as they are written. */
export function rolledUp(keys: readonly GroupKey[], over: readonly string[]): { readonly by: string; readonly level: string } {
  const levels = keys.reduce((made: readonly (readonly string[])[], { besides }, index) => {
    const own = over[index] ?? '';
    return besides ? made.with(-1, [...(made.at(-1) ?? []), own]) : [...made, [own]];
  }, []);
  const parts = levels.map((each) => (each.length === 1 ? each.join('') : `(${each.join(', ')})`));
  return { by: parts.length > 0 ? ` group by rollup (${parts.join(', ')})` : '', level: levelOf(levels.map(([first = '']) => first)) };
}

/** How many of the keys a group is made by: those not rolled up, which `grouping` tells as bits, the last key lowest. */
function levelOf(keys: readonly string[]): string {
  if (keys.length === 0) return '0';
  const bits = `grouping(${keys.join(', ')})`;
  return `case ${bits} ${keys.map((_key, index) => `when ${2 ** index - 1} then ${keys.length - index}`).join(' ')} else 0 end`;
}
