import type { ParameterPlace } from './places';
import { placesIn } from './places';
import type { TextStatement } from './split';

/**
 * The statement as a grammar without parameters takes it, every character of it at its place: what stands around it is
 * blank, and a parameter is a number. `between :name` has one value where the grammar wants two, so it is a comparison here.
 */
export function inPlace(text: string, { from, to, tokens }: TextStatement): string {
  let out = text.slice(0, from).replace(/[^\n]/g, ' ');
  let at = from;
  for (const place of placesIn(tokens)) {
    const span = place.stands === 'range' ? place.written : place;
    out += text.slice(at, span.from) + standIn(place).padEnd(span.to - span.from);
    at = span.to;
  }
  return out + text.slice(at, to) + text.slice(to).replace(/[^\n]/g, ' ');
}

function standIn({ stands, negated }: ParameterPlace): string {
  if (stands !== 'range') return '$1';
  return negated ? '<> $1' : '= $1';
}
