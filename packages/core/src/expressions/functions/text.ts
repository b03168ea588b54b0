import { text, whole } from '../../fields';
import { call, closed, compare, concat, NULL, when, wholeLiteral, wholeSum } from '../build';
import type { Expression, Primitive } from '../expression';
import type { FunctionSpec, Operands } from './spec';

const ofText = (name: Primitive) => (operands: Operands) => {
  const of = operands.text(0);
  return of && call(name, text, of);
};

function substring(operands: Operands): Expression | undefined {
  const [of, from] = [operands.text(0), operands.whole(1)];
  const length = operands.count > 2 ? operands.whole(2) : undefined;
  if (!of || !from || (operands.count > 2 && !length)) return undefined;
  return length ? call('substring', text, of, from, length) : call('substring', text, of, from);
}

function trimmed(name: Primitive, operands: Operands): Expression | undefined {
  const of = operands.text(0);
  const char = operands.count > 1 ? operands.writtenText(1, 'the character to trim') : ' ';
  if (!of || char === undefined) return undefined;
  if ([...char].length !== 1)
    return operands.fail('operand-unsuited', 'Trimming takes one character away.', 1, "one character, such as '0'");
  return call(name, text, of, { op: 'literal', type: text, value: char });
}

/** By the standard: what stands before, the new text, what stands behind. */
function overlay(operands: Operands): Expression | undefined {
  const [of, by, from] = [operands.text(0), operands.text(1), operands.whole(2)];
  if (!of || !by || !from) return undefined;
  const length = operands.count > 3 ? operands.whole(3) : call('charLength', whole, by);
  if (!length) return undefined;
  const before = call('substring', text, of, wholeLiteral(1), wholeSum('-', from, wholeLiteral(1)));
  return concat(before, by, call('substring', text, of, wholeSum('+', from, length)));
}

function joined(operands: Operands): Expression | undefined {
  const items = Array.from({ length: operands.count }, (_, index) => operands.text(index));
  const present = items.flatMap((each) => each ?? []);
  return present.length < items.length ? undefined : call('joinText', text, ...present);
}

export const TEXTS: readonly FunctionSpec[] = [
  { name: 'upper', group: 'text', signature: 'upper(text)', says: 'the text in capitals', least: 1, most: 1, build: ofText('upper') },
  { name: 'lower', group: 'text', signature: 'lower(text)', says: 'the text in small letters', least: 1, most: 1, build: ofText('lower') },
  {
    name: 'char_length',
    group: 'text',
    signature: 'char_length(text)',
    says: 'how many characters it has',
    least: 1,
    most: 1,
    build: (operands) => {
      const of = operands.text(0);
      return of && call('charLength', whole, of);
    },
  },
  {
    name: 'substring',
    group: 'text',
    signature: 'substring(text from start for length)',
    says: 'part of the text; characters count from 1',
    least: 2,
    most: 3,
    build: substring,
  },
  {
    name: 'position',
    group: 'text',
    signature: 'position(sought in text)',
    says: 'where the sought text first begins; 0 when nowhere',
    least: 2,
    most: 2,
    build: (operands) => {
      const [sought, of] = [operands.text(0), operands.text(1)];
      return sought && of && call('position', whole, sought, of);
    },
  },
  {
    name: 'trim both',
    group: 'text',
    signature: "trim(both ' ' from text)",
    says: 'the text without that character at its ends; trim(text) takes blanks',
    least: 1,
    most: 2,
    build: (operands) => trimmed('trimBoth', operands),
  },
  {
    name: 'trim leading',
    group: 'text',
    signature: "trim(leading '0' from text)",
    says: 'the text without that character at its beginning',
    least: 1,
    most: 2,
    build: (operands) => trimmed('trimLeading', operands),
  },
  {
    name: 'trim trailing',
    group: 'text',
    signature: "trim(trailing ' ' from text)",
    says: 'the text without that character at its end',
    least: 1,
    most: 2,
    build: (operands) => trimmed('trimTrailing', operands),
  },
  {
    name: 'overlay',
    group: 'text',
    signature: 'overlay(text placing new from start for length)',
    says: 'the text with part of it exchanged',
    least: 3,
    most: 4,
    build: overlay,
  },
  {
    name: 'replace',
    group: 'text',
    signature: 'replace(text, sought, new)',
    says: 'the text with every occurrence exchanged',
    least: 3,
    most: 3,
    build: (operands) => {
      const [of, sought, by] = [operands.text(0), operands.text(1), operands.text(2)];
      return of && sought && by && call('replace', text, of, sought, by);
    },
  },
  {
    name: 'join_text',
    group: 'text',
    signature: 'join_text(separator, text, text, …)',
    says: 'the texts with the separator between them; nulls are skipped, and nothing but nulls gives null',
    least: 2,
    most: 100,
    build: joined,
  },
];

export const NULLS: readonly FunctionSpec[] = [
  {
    name: 'coalesce',
    group: 'nulls',
    signature: 'coalesce(value, instead, …)',
    says: 'the first of them that is not null',
    least: 1,
    most: 100,
    build: (operands) => {
      const items = operands.alike(0);
      const [first] = items ?? [];
      if (!items || !first) return undefined;
      return items.length === 1 ? first : { op: 'coalesce', type: first.type, items };
    },
  },
  {
    name: 'nullif',
    group: 'nulls',
    signature: 'nullif(value, other)',
    says: 'null where the two are equal, else the value',
    least: 2,
    most: 2,
    build: (operands) => {
      const [value, other] = [operands.any(0), operands.any(1)];
      const sides = value && other && operands.compared(value, other, 1);
      if (!sides || !value) return undefined;
      const of = closed(value);
      return when(compare('=', ...sides), { ...NULL, type: of.type } as Expression, of);
    },
  },
];
