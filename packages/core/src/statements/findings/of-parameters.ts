import { typeWord } from '../../fields';
import { parameterTypeFor } from '../../parameters';
import type { Problem } from '../../problem';
import type { TextToken } from '../tokens';
import type { LookedAt } from './looked-at';
import { finding } from './looked-at';

/** Findings about how parameters stand in a text. */
export function findingsOfParameters(looked: LookedAt): readonly Problem[] {
  return [...looked.tokens.flatMap((token) => inQuotes(looked, token)), ...ofAnotherType(looked)];
}

/** In quotes it is a text that begins with a colon, and no value comes there. */
function inQuotes({ context }: LookedAt, token: TextToken): readonly Problem[] {
  const match = token.kind === 'string' ? /^'(%?)(:[\p{L}_][\p{L}\p{N}_]*)(%?)'$/u.exec(token.text) : null;
  if (!match) return [];
  const [, before = '', name = '', behind = ''] = match;
  const known = context.parameters.some((each) => `:${each.name}` === name);
  if (!known && before === '' && behind === '' && /^:\d/.test(name)) return [];
  const instead = [...(before ? [`'${before}'`] : []), name, ...(behind ? [`'${behind}'`] : [])].join(' || ');
  return [
    finding('parameter-in-quotes', 'warning', `In quotes, ${name} is a text and no parameter.`, token, `${name} without quotes`, instead),
  ];
}

/** What it is compared with has another type, so values are cast, or refused by the source. */
function ofAnotherType({ tokens, context }: LookedAt): readonly Problem[] {
  const seen = new Set<string>();
  return context.parameters.flatMap(({ name, type }) => {
    const met = context.met.filter((each) => each.name === name).map((each) => each.type);
    const other = met.find((each) => !suits(type, parameterTypeFor(each)));
    const place = tokens.find((each) => each.kind === 'parameter' && each.text === `:${name}`);
    if (!other || !place || seen.has(name)) return [];
    seen.add(name);
    return [
      finding(
        'parameter-type',
        'warning',
        `:${name} is a ${type} and meets a ${typeWord(other)}.`,
        place,
        `a parameter that is a ${parameterTypeFor(other)}`,
      ),
    ];
  });
}

function suits(own: string, met: string): boolean {
  if (own === met) return true;
  const numbers = ['whole number', 'decimal'];
  if (numbers.includes(own) && numbers.includes(met)) return own === 'whole number' || met === 'decimal';
  const days = ['date', 'date-time'];
  return days.includes(own) && days.includes(met);
}
