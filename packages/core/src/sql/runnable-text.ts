import { tokensOf } from '../statements';
import type { Statement } from './compile';
import type { BoundValue } from './write-expressions';

/** What stands for a parameter, or one end of its range, in a text: `:name`. */
export type NameOf = (parameter: NonNullable<BoundValue['parameter']>) => string | undefined;

const quoted = (value: string) => `'${value.replaceAll("'", "''")}'`;

/**
 * A statement with places `$n` as a text that runs by hand: parameters stand in it by name, constants are written out.
 * Nothing else of it changes; what stands in quotes is no place.
 */
export function runnableText({ text, values }: Pick<Statement, 'text' | 'values'>, nameOf: NameOf): string {
  return tokensOf(text)
    .map((token) => {
      const bound = token.kind === 'numbered' ? values[Number(token.text.slice(1)) - 1] : undefined;
      return bound ? writtenOut(bound, nameOf) : token.text;
    })
    .join('');
}

function writtenOut({ value, parameter }: BoundValue, nameOf: NameOf): string {
  const name = parameter && nameOf(parameter);
  if (name !== undefined) return `:${name}`;
  if (typeof value === 'string') return quoted(value);
  return value.length > 0 ? value.map(quoted).join(', ') : 'null';
}
