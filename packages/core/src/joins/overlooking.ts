import type { Expression } from '../expressions';
import { call, cast, isNull, textLiteral, when } from '../expressions';
import type { FieldType } from '../fields';
import { decimal, isNumber, OPEN_SCALE, text } from '../fields';
import { ofWhole } from '../values';
import type { Value } from '../values';
import type { MatchSwitch } from './pair';

/** What every engine converts texts to exactly. */
const NUMBER: FieldType = decimal(36, OPEN_SCALE);

/**
 * The one form of values that are alike when some differences are overlooked, as text. Blanks around it go first; a
 * text that reads as a number is that number, and what is none loses leading zeros and case. A text that is nothing
 * but zeros keeps one.
 */
export function overlooking(of: Expression, switches: readonly MatchSwitch[]): Expression {
  const has = (each: MatchSwitch) => switches.includes(each);
  if (isNumber(of.type)) return cast(cast(of, NUMBER), text);
  const bare = has('blanks') ? call('trimBoth', text, of, textLiteral(' ')) : of;
  const unpadded = has('zeros') ? withoutZeros(bare) : bare;
  const plain = has('case') ? call('lower', text, unpadded) : unpadded;
  if (!has('number')) return plain;
  return { op: 'coalesce', type: text, items: [cast(cast(bare, NUMBER), text), plain] };
}

function withoutZeros(of: Expression): Expression {
  const left = call('trimLeading', text, of, textLiteral('0'));
  return {
    op: 'case',
    type: text,
    branches: [
      { when: { op: 'compare', type: { kind: 'yesno' }, operator: '=', left: of, right: textLiteral('') }, then: of },
      { when: { op: 'compare', type: { kind: 'yesno' }, operator: '=', left, right: textLiteral('') }, then: textLiteral('0') },
    ],
    otherwise: left,
  };
}

/** Two values that are equal exactly where the others are, or both are null: whether it is null, and what stands for null. */
export function withNulls(of: Expression): readonly Expression[] {
  return [isNull(of), when(isNull(of), { op: 'literal', type: of.type, value: anyValue(of.type) }, of)];
}

/** Some value of a type; which one does not matter. */
function anyValue(type: FieldType): Value {
  switch (type.kind) {
    case 'text':
    case 'json':
      return '';
    case 'whole':
      return ofWhole(0n);
    case 'decimal':
      return { digits: 0n, scale: type.scale };
    case 'float':
    case 'date':
      return 0;
    case 'yesno':
      return false;
    case 'time':
    case 'datetime':
    case 'instant':
      return 0n;
  }
}
