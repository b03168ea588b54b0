import type { FieldType } from '../fields';
import { date, datetime, decimal, float, MAX_DIGITS, text, time, whole, yesno } from '../fields';
import type { Reader } from './reader';
import type { Token } from './tokens';
import type { Branch, CallTree, Frame, NowWord, OrderTree, Tree, WindowTree } from './tree';
import { NOW_WORDS } from './tree';

/** How the operands inside a form are read: anything at all, or what stands above a predicate. */
export interface Operands {
  whole(): Tree;
  sum(): Tree;
}

export const isNow = (word: string): word is NowWord => (NOW_WORDS as readonly string[]).includes(word);

/** What begins with a word: case, cast, interval, a function. Undefined when the word is a name, or nothing of these. */
export function readForm(reader: Reader, operands: Operands): Tree | undefined {
  const token = reader.peek();
  const word = token.text.toLowerCase();
  if (word === 'case') return reader.nested(() => readCase(reader, operands));
  if (word === 'interval' && reader.peek(1).kind === 'string') return readInterval(reader);
  if (!reader.isSign(reader.peek(1), '(')) return undefined;
  if (word === 'in' || word === 'and' || word === 'or' || word === 'not') return undefined;
  return reader.nested(() => (word === 'cast' ? readCast(reader, operands) : readFunction(reader, operands)));
}

function readCase(reader: Reader, { whole }: Operands): Tree {
  const start = reader.next();
  const operand = reader.isWord(reader.peek(), 'when') ? undefined : whole();
  const branches: Branch[] = [];
  while (reader.takeWord('when')) {
    const when = whole();
    reader.expectWord('then');
    branches.push({ when, then: whole() });
  }
  if (branches.length === 0) reader.unexpected(reader.peek(), 'when');
  const otherwise = reader.takeWord('else') ? whole() : undefined;
  reader.expectWord('end');
  return {
    node: 'case',
    branches,
    ...(operand ? { operand } : {}),
    ...(otherwise ? { otherwise } : {}),
    from: start.from,
    to: reader.lastEnd(),
  };
}

function readInterval(reader: Reader): Tree {
  const start = reader.next();
  const amount = reader.next();
  const unit = reader.peek();
  if (unit.kind === 'name') reader.next();
  else reader.unexpected(unit, "a unit, as in interval '3' day");
  return {
    node: 'interval',
    amount: amount.text,
    unit: unit.kind === 'name' ? unit.text.toLowerCase() : '',
    from: start.from,
    to: reader.lastEnd(),
  };
}

function readCast(reader: Reader, { whole }: Operands): Tree {
  const start = reader.next();
  reader.expectSign('(');
  const of = whole();
  reader.expectWord('as');
  const typeStart = reader.peek();
  const type = readTypeName(reader);
  const typeAt = { from: typeStart.from, to: Math.max(typeStart.to, reader.lastEnd()) };
  reader.expectSign(')');
  return { node: 'cast', of, type, typeAt, from: start.from, to: reader.lastEnd() };
}

const TYPE_NAMES: Readonly<Record<string, FieldType>> = {
  text,
  varchar: text,
  integer: whole,
  int: whole,
  bigint: whole,
  float,
  'double precision': float,
  boolean: yesno,
  date,
  time,
  timestamp: datetime,
};

const TYPE_WORDS = 'text, integer, decimal(12,2), double precision, boolean, date, time or timestamp';

function readTypeName(reader: Reader): FieldType | undefined {
  const token = reader.peek();
  const word = token.text.toLowerCase();
  if (token.kind === 'name' && (word === 'decimal' || word === 'numeric')) {
    reader.next();
    return readDigits(reader, token);
  }
  const name = reader.takeWord('double', 'precision') ? 'double precision' : word;
  const type = token.kind === 'name' && Object.hasOwn(TYPE_NAMES, name) ? TYPE_NAMES[name] : undefined;
  if (!type) reader.unexpected(token, `a type: ${TYPE_WORDS}`);
  if (name !== 'double precision' && token.kind === 'name') reader.next();
  return type;
}

function readDigits(reader: Reader, at: Token): FieldType | undefined {
  const expected = 'its digits and decimals, such as decimal(12,2)';
  if (!reader.takeSign('(')) {
    reader.report('type-unfinished', 'A decimal says how many digits it has.', at, expected);
    return undefined;
  }
  const numbers = [reader.next()];
  while (reader.takeSign(',')) numbers.push(reader.next());
  reader.expectSign(')');
  const [precision, scale = 0] = numbers.map((each) => (/^\d{1,2}$/.test(each.text) ? Number(each.text) : Number.NaN));
  const fits = numbers.length <= 2 && precision !== undefined && precision >= 1 && precision <= MAX_DIGITS && scale <= precision;
  if (fits) return decimal(precision, scale);
  reader.report('type-unfinished', `A decimal has 1 to ${MAX_DIGITS} digits, and no more decimals than digits.`, at, expected);
  return undefined;
}

function readFunction(reader: Reader, operands: Operands): Tree {
  const name = reader.next();
  reader.expectSign('(');
  const parts = readOperands(reader, name.text.toLowerCase(), operands);
  reader.expectSign(')');
  const call: CallTree = { node: 'call', nameAt: { from: name.from, to: name.to }, ...parts, from: name.from, to: reader.lastEnd() };
  if (!reader.isWord(reader.peek(), 'over') || !reader.isSign(reader.peek(1), '(')) return call;
  reader.next();
  reader.next();
  const over = readWindow(reader, operands);
  reader.expectSign(')');
  return { node: 'window', call, over, from: name.from, to: reader.lastEnd() };
}

type Parts = Pick<CallTree, 'name' | 'args' | 'unit' | 'star'>;

/** The operands of a function, in the standard's spelled-out form where it has one. */
function readOperands(reader: Reader, name: string, operands: Operands): Parts {
  if (reader.isSign(reader.peek(), ')')) return { name, args: [] };
  if (reader.isSign(reader.peek(), '*')) {
    reader.next();
    return { name, args: [], star: true };
  }
  if (name === 'extract') return readExtract(reader, operands);
  if (name === 'trim') return readTrim(reader, operands);
  if (name === 'position') {
    const sought = operands.sum();
    reader.expectWord('in');
    return { name, args: [sought, operands.sum()] };
  }
  const args = [operands.whole()];
  if (name === 'overlay') {
    reader.expectWord('placing');
    args.push(operands.whole());
  }
  if ((name === 'overlay' || name === 'substring') && reader.takeWord('from')) {
    args.push(operands.whole());
    if (reader.takeWord('for')) args.push(operands.whole());
    return { name, args };
  }
  while (reader.takeSign(',')) args.push(operands.whole());
  return { name, args };
}

function readExtract(reader: Reader, operands: Operands): Parts {
  const unit = reader.next();
  if (unit.kind !== 'name') reader.unexpected(unit, 'a part, as in extract(year from picked_on)');
  reader.expectWord('from');
  return { name: 'extract', unit: unit.text.toLowerCase(), args: [operands.whole()] };
}

/** `trim(x)`, `trim('.' from x)`, `trim(leading '0' from x)`. */
function readTrim(reader: Reader, operands: Operands): Parts {
  const side = ['leading', 'trailing', 'both'].find((word) => reader.isWord(reader.peek(), word) && !reader.isSign(reader.peek(1), ')'));
  if (side) reader.next();
  const name = `trim ${side ?? 'both'}`;
  if (reader.takeWord('from')) return { name, args: [operands.whole()] };
  const first = operands.whole();
  if (!reader.takeWord('from')) return { name, args: [first] };
  return { name, args: [operands.whole(), first] };
}

function readWindow(reader: Reader, operands: Operands): WindowTree {
  const partition: Tree[] = [];
  const order: OrderTree[] = [];
  if (reader.takeWord('partition', 'by')) {
    do partition.push(operands.whole());
    while (reader.takeSign(','));
  }
  if (reader.takeWord('order', 'by')) {
    do order.push(readOrder(reader, operands));
    while (reader.takeSign(','));
  }
  const frame = readFrame(reader);
  return frame ? { partition, order, frame } : { partition, order };
}

function readOrder(reader: Reader, operands: Operands): OrderTree {
  const of = operands.whole();
  const descending = reader.takeWord('desc') || (reader.takeWord('asc') && false);
  const nullsFirst = reader.takeWord('nulls', 'first') || (reader.takeWord('nulls', 'last') && false);
  return { of, descending, nullsFirst };
}

function readFrame(reader: Reader): Frame | undefined {
  if (!reader.takeWord('rows')) return undefined;
  if (!reader.takeWord('between')) return { from: readBound(reader, 'preceding'), until: 0 };
  const from = readBound(reader, 'preceding');
  reader.expectWord('and');
  return { from, until: readBound(reader, 'following') };
}

/** `unbounded preceding`, `3 preceding`, `current row`, `3 following`, `unbounded following`. */
function readBound(reader: Reader, open: 'preceding' | 'following'): number | undefined {
  if (reader.takeWord('unbounded', open)) return undefined;
  if (reader.takeWord('current', 'row')) return 0;
  const count = reader.peek();
  if (count.kind === 'number' && /^\d{1,6}$/.test(count.text)) {
    reader.next();
    if (reader.takeWord('preceding')) return -Number(count.text) || 0;
    if (reader.takeWord('following')) return Number(count.text);
    reader.unexpected(reader.peek(), 'preceding or following');
    return 0;
  }
  reader.unexpected(count, `unbounded ${open}, 3 preceding, current row or 3 following`);
  return 0;
}
