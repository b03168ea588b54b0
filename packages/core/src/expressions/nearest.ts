/** How many letters have to be put in, taken out or exchanged to make one text of the other. */
export const editDistance = (a: string, b: string): number => distance(a, b, Math.max(a.length, b.length));

/** Edit distance with a cut-off, by the usual dynamic programming over two rows (Wagner and Fischer, 1974). */
function distance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1;
  let row = Array.from({ length: b.length + 1 }, (_, index) => index);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      const change = (row[j - 1] ?? 0) + (a[i - 1] === b[j - 1] ? 0 : 1);
      next.push(Math.min(change, (row[j] ?? 0) + 1, (next[j - 1] ?? 0) + 1));
    }
    row = next;
  }
  return row[b.length] ?? limit + 1;
}

/** The name nearest to what was typed, or undefined when none is near enough to be meant. */
export function nearestName(typed: string, names: readonly string[]): string | undefined {
  const limit = Math.max(1, Math.floor(typed.length / 3));
  const scored = names
    .map((name) => ({ name, score: distance(typed.toLowerCase(), name.toLowerCase(), limit) }))
    .filter(({ score }) => score <= limit);
  return scored.sort((a, b) => a.score - b.score)[0]?.name;
}
