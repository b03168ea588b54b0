/** Words of the SQL standard that most engines reserve: a field of such a name has to be quoted wherever it is used. */
const RESERVED = new Set(
  (
    'all and any array as asc at between both by case cast check collate column constraint create cross current date day default delete desc distinct drop else end except ' +
    'exists false fetch for foreign from full grant group having hour in inner insert intersect interval into is join leading left like limit minute month ' +
    'natural not null offset on only or order outer over partition primary references right row rows second select session set some table then time timestamp to trailing ' +
    'true union unique update user using value values when where window with within year'
  ).split(' '),
);

/** Names longer than this are cut by some engines. */
const LONGEST = 63;

export function isSafeName(name: string): boolean {
  return /^[A-Za-z_][A-Za-z0-9_]*$/.test(name) && name.length <= LONGEST;
}

export const isReservedWord = (name: string): boolean => RESERVED.has(name.toLowerCase());

/** A name like the given one that is safe everywhere, is no reserved word, and is none of those taken (without regard to case). */
export function safeName(name: string, taken: readonly string[] = []): string {
  const plain = name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '');
  const begun = plain === '' ? 'field' : /^\d/.test(plain) ? `f_${plain}` : plain;
  const free = isReservedWord(begun) ? `${begun}_value` : begun;
  const used = new Set(taken.map((each) => each.toLowerCase()));
  for (let count = 1; ; count++) {
    const suffix = count === 1 ? '' : `_${count}`;
    const candidate = `${free.slice(0, LONGEST - suffix.length)}${suffix}`;
    if (!used.has(candidate.toLowerCase())) return candidate;
  }
}

/** The names made different where several are alike, in their order; for files whose columns need names of their own. */
export function uniqueNames(names: readonly string[]): readonly string[] {
  const used = new Set<string>();
  return names.map((name) => {
    let own = name;
    for (let count = 2; used.has(own.toLowerCase()); count++) own = `${name}_${count}`;
    used.add(own.toLowerCase());
    return own;
  });
}
