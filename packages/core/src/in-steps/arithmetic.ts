import { isDay } from '../fields';
import type { SyntaxTree } from '../statements';
import { namesOf } from '../statements';
import { intervalOf } from './literals';
import type { Meaning } from './meaning';
import { typeOf } from './meaning';
import type { Said } from './said';
import { between, called, HOLDS, one, operand, within } from './said';
import type { Members } from './speech';
import { asText, say, sayAll } from './speech';
import { unsaid } from './unsaid';

const OPERATIONS: Readonly<Record<string, typeof HOLDS.sum | typeof HOLDS.product>> = {
  '+': HOLDS.sum,
  '-': HOLDS.sum,
  '||': HOLDS.sum,
  '*': HOLDS.product,
  '/': HOLDS.product,
};

/** What is calculated with an operator; undefined for one that compares. */
export function saidOperation(of: Members, meaning: Meaning): Said | undefined {
  const operator = namesOf(of.name).at(-1) ?? '';
  if (of.kind === 'AEXPR_NULLIF') return called('nullif', ...sayAll([of.lexpr ?? null, of.rexpr ?? null], meaning));
  if (of.kind !== 'AEXPR_OP') return undefined;
  if (of.lexpr === undefined) {
    if (operator !== '-' && operator !== '+') return undefined;
    const value = say(of.rexpr, meaning);
    return operator === '+' ? value : { text: `-${within(HOLDS.one, value)}`, holds: HOLDS.sign };
  }
  const holds = OPERATIONS[operator];
  if (operator === '||') return saidJoined(of, meaning);
  const [left, right] = [of.lexpr, of.rexpr ?? null];
  if (operator === '%') return called('mod', ...sayAll([left, right], meaning));
  if (operator === '^') return saidPower(left, right, of.location, meaning);
  if (holds === undefined) return undefined;
  const moved = operator === '+' || operator === '-' ? saidMoved(left, operator, right, of.location, meaning) : undefined;
  if (moved) return moved;
  const [a, b] = sayAll([left, right], meaning) as [Said, Said];
  const whole = [a, b].every((each) => typeOf(each, meaning)?.kind === 'whole');
  // A quotient of whole numbers is cut off in the text: so is one of a number that divides without rest.
  if (operator === '/' && whole)
    return one(
      `cast(${between(HOLDS.product, { text: `${within(HOLDS.sum, a)} - ${called('mod', a, b).text}`, holds: HOLDS.sum }, '/', b).text} as integer)`,
    );
  return between(holds, a, operator, b);
}

/** A power of a decimal is a decimal in its source, and a floating number here. */
export function saidPower(base: SyntaxTree, exponent: SyntaxTree, location: SyntaxTree | undefined, meaning: Meaning): Said {
  const [a, b] = sayAll([base, exponent], meaning) as [Said, Said];
  if ([a, b].every((each) => typeOf(each, meaning)?.kind !== 'decimal')) return called('power', a, b);
  return b.text === '2' && a.holds === HOLDS.one
    ? between(HOLDS.product, a, '*', a)
    : unsaid('A power of a decimal has no counterpart.', location);
}

/** A day moved by a length of time or by days, or the days between two. */
function saidMoved(
  left: SyntaxTree,
  operator: '+' | '-',
  right: SyntaxTree,
  location: SyntaxTree | undefined,
  meaning: Meaning,
): Said | undefined {
  const lengths = intervalOf(right);
  if (lengths) return { text: [operand(say(left, meaning)), ...lengths.map((each) => `${operator} ${each}`)].join(' '), holds: HOLDS.sum };
  if (intervalOf(left)) return operator === '+' ? saidMoved(right, '+', left, location, meaning) : undefined;
  const [a, b] = sayAll([left, right], meaning) as [Said, Said];
  const [from, by] = [typeOf(a, meaning), typeOf(b, meaning)];
  if (!from || !by || (!isDay(from) && !isDay(by))) return undefined;
  if (from.kind === 'date' && by.kind === 'date' && operator === '-') return between(HOLDS.sum, a, '-', b);
  if (from.kind === 'date' && by.kind === 'whole')
    return /^\d{1,6}$/.test(b.text)
      ? { text: `${operand(a)} ${operator} interval '${b.text}' day`, holds: HOLDS.sum }
      : { text: `${operand(a)} ${operator} ${within(HOLDS.one, b)} * interval '1' day`, holds: HOLDS.sum };
  if (from.kind === 'whole' && by.kind === 'date' && operator === '+') return saidMoved(right, '+', left, location, meaning);
  return unsaid('The time between two moments is no number here.', location);
}

/** Texts put together; what is none becomes one, as its source does. */
function saidJoined({ lexpr, rexpr, location }: Members, meaning: Meaning): Said {
  const [left, right] = [lexpr, rexpr].map((each) => asText(say(each, meaning), meaning, location)) as [Said, Said];
  return between(HOLDS.sum, left, '||', { ...right, holds: right.holds });
}
