/**
 * Number patterns: a subset of Unicode LDML (UTS 35, part 3): `0` a digit always shown, `#` a digit shown when it
 * counts, `.` the decimal sign, `,` groups, `%` in what stands before or behind, text in single quotes, and after
 * `;` what a negative number has around it.
 */
export interface NumberPattern {
  readonly leastWhole: number;
  readonly leastDecimals: number;
  readonly mostDecimals: number;
  /** Digits of a group; 0 for none. */
  readonly group: number;
  readonly percent: boolean;
  readonly positive: Affixes;
  readonly negative: Affixes;
}

export interface Affixes {
  readonly before: string;
  readonly after: string;
}

const MOST_DECIMALS = 20;

/** The pattern, or in words what is wrong with it. */
export function readNumberPattern(source: string): NumberPattern | string {
  const halves = splitPattern(source);
  if (typeof halves === 'string') return halves;
  const [first, second] = halves;
  if (!first || halves.length > 2) return 'it has more than one “;”';
  const body = /^(#*(?:,#+)*,?#*)(0*(?:,0+)*)(?:[.](0*)(#*))?$/.exec(first.body);
  if (!body || !/[0#]/.test(first.body) || /,$|,[.]|^,|,,/.test(first.body)) return 'its digits are not in the order #,##0.00##';
  const whole = `${body[1] ?? ''}${body[2] ?? ''}`;
  const comma = whole.lastIndexOf(',');
  const leastDecimals = (body[3] ?? '').length;
  const mostDecimals = leastDecimals + (body[4] ?? '').length;
  if (mostDecimals > MOST_DECIMALS) return `it has more than ${MOST_DECIMALS} decimals`;
  const positive = { before: first.before, after: first.after };
  return {
    leastWhole: whole.replace(/[#,]/g, '').length,
    leastDecimals,
    mostDecimals,
    group: comma < 0 ? 0 : whole.length - comma - 1,
    percent: first.percent,
    positive,
    negative: second ? { before: second.before, after: second.after } : { before: `-${positive.before}`, after: positive.after },
  };
}

interface Half extends Affixes {
  readonly body: string;
  readonly percent: boolean;
}

/** Splits at `;` outside quotes, and each half into what stands before its digits, the digits, and what stands behind. */
function splitPattern(source: string): readonly Half[] | string {
  const halves: { before: string; body: string; after: string; percent: boolean }[] = [];
  let half = { before: '', body: '', after: '', percent: false };
  const put = (char: string) => (half.body === '' ? (half.before += char) : (half.after += char));
  for (let at = 0; at < source.length; at++) {
    const char = source.charAt(at);
    if (char === "'") {
      const close = source.indexOf("'", at + 1);
      if (close < 0) return 'a quoted text in it is not closed';
      put(close === at + 1 ? "'" : source.slice(at + 1, close));
      at = close;
    } else if (char === ';') {
      halves.push(half);
      half = { before: '', body: '', after: '', percent: false };
    } else if (/[0#,.]/.test(char)) {
      if (half.after !== '') return 'its digits are interrupted';
      half.body += char;
    } else if (/[1-9@*E¤‰]/.test(char)) {
      return `“${char}” has no meaning in it; text stands in single quotes`;
    } else {
      if (char === '%') half.percent = true;
      put(char);
    }
  }
  halves.push(half);
  return halves;
}
