/** Values in a pasted or typed text: one a line, or separated by tabs, commas or semicolons where there is only one line. */
export function splitValues(text: string): readonly string[] {
  const lines = text.split(/\r?\n|\t/);
  const parts = lines.filter((each) => each.trim() !== '').length > 1 ? lines : text.split(/[,;]/);
  return parts.map((each) => each.trim()).filter((each) => each !== '');
}

/** Values that stand more than once, with how often. */
export function repeatedIn(values: readonly string[]): readonly (readonly [value: string, times: number])[] {
  const times = new Map<string, number>();
  for (const each of values) times.set(each, (times.get(each) ?? 0) + 1);
  return [...times].filter(([, count]) => count > 1);
}
