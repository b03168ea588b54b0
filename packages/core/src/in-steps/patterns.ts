/** Parts of a pattern for days and moments as PostgreSQL writes it (its manual, 9.8), and ours; the longest first. */
const PARTS: readonly (readonly [string, string])[] = [
  ['YYYY', 'yyyy'],
  ['HH24', 'HH'],
  ['MONTH', ''],
  ['MON', ''],
  ['FMMonth', 'MMMM'],
  ['Mon', 'MMM'],
  ['YY', 'yy'],
  ['MM', 'MM'],
  ['DD', 'dd'],
  ['MI', 'mm'],
  ['SS', 'ss'],
];

/** A pattern of `to_char` as one of ours; undefined where a part of it has none. */
export function datePattern(pattern: string): string | undefined {
  let out = '';
  let at = 0;
  while (at < pattern.length) {
    const part = PARTS.find(([theirs]) => pattern.startsWith(theirs, at));
    const rest = pattern.slice(at);
    const literal = /^(?:"([^"]*)"|([-/.:, ]+))/.exec(rest);
    if (part && part[1] !== '') {
      out += part[1];
      at += part[0].length;
    } else if (!part && literal) {
      const [all, text, signs] = literal;
      out += text === undefined ? signs : text === '' ? '' : `'${text.replaceAll("'", "''")}'`;
      at += all.length;
    } else return undefined;
  }
  return out === '' ? undefined : out;
}
