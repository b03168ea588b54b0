import type { FieldType } from '../fields';
import { whole, yesno } from '../fields';
import { all, compare, either, isNull, not, wholeLiteral, yes } from './build';
import type { Call, Expression, Window } from './expression';
import { fieldsUsed, nodesOf, operandsOf, parameterKeysUsed, sizeOf, withOperands } from './expression';
import { digitsOf, mayOverflow, mayNotFit } from './rules';

/** What a blank parameter does to the condition it stands in. */
export type Blank = 'off' | 'null';

/**
 * The expression with blank parameters taken out of it. The smallest condition a blank parameter stands
 * in is switched off (it then neither keeps nor drops a row), or asks for null instead of a value.
 * Undefined when nothing is left to ask.
 */
export function applyBlanks(node: Expression, blanks: ReadonlyMap<string, Blank>): Expression | undefined {
  if (blanks.size === 0) return node;
  switch (node.op) {
    case 'and':
    case 'or': {
      const items = node.items.flatMap((item) => applyBlanks(item, blanks) ?? []);
      const [only] = items;
      return items.length <= 1 ? only : { ...node, items };
    }
    case 'not':
    case 'isTrue': {
      const of = applyBlanks(node.of, blanks);
      return of && { ...node, of };
    }
    default:
      return applyToCondition(node, blanks);
  }
}

function applyToCondition(node: Expression, blanks: ReadonlyMap<string, Blank>): Expression | undefined {
  const blank = parameterKeysUsed(node).map((key) => blanks.get(key));
  if (blank.includes('off')) return undefined;
  if (!blank.includes('null')) return node;
  const of = askedOf(node);
  if (!of) return undefined;
  return node.op === 'compare' && node.operator === '<>' ? not(isNull(of)) : isNull(of);
}

/** What a condition asks about: the side without a parameter where it holds a field, or else the first field there is. */
function askedOf(node: Expression): Expression | undefined {
  const sides = operandsOf(node).filter((operand) => parameterKeysUsed(operand).length === 0);
  return sides.find((side) => fieldsUsed(side).length > 0) ?? nodesOf(node).find((each) => each.op === 'field') ?? sides[0];
}

/** The expression with blank parameters as nulls, for a value that is calculated whatever is left blank. */
export function blanksAsNull(node: Expression, blanks: ReadonlyMap<string, Blank>, done = new Map<Expression, Expression>()): Expression {
  if (blanks.size === 0) return node;
  // A part that is used several times stays one part.
  const known = done.get(node) ?? withoutBlanks(node, blanks, done);
  done.set(node, known);
  return known;
}

function withoutBlanks(node: Expression, blanks: ReadonlyMap<string, Blank>, done: Map<Expression, Expression>): Expression {
  const key = node.op === 'inList' ? node.id : node.op === 'parameter' ? parameterKeysUsed(node)[0] : undefined;
  if (key !== undefined && blanks.has(key)) return { op: 'literal', type: node.type, value: null };
  return withOperands(
    node,
    operandsOf(node).map((each) => blanksAsNull(each, blanks, done)),
  );
}

/** Beyond this many operations the exact account of a failure would cost more than it tells. */
const MOST_ACCOUNTED = 20_000;

/**
 * True where computing the expression failed and the failure reached its value: an operation had all its
 * operands and yet no value, or a field holds what fits no type, in a branch that was taken, and nothing
 * stood in for it. Undefined when nothing in the expression can fail.
 */
export function failureOf(node: Expression): Expression | undefined {
  // Handed on as it is, a misfit is shown, and nothing has failed.
  return node.op === 'field' ? undefined : failureWithin(node);
}

/** The same of what something else is made of, such as a sum: there a field that holds what fits no type is left out. */
export function failureWithin(node: Expression): Expression | undefined {
  const failure = new Failures().of(node);
  if (!failure || sizeOf(failure) <= MOST_ACCOUNTED) return failure;
  return all(isNull(node), ...fieldsUsed(node).map((id) => not(isNull(fieldNode(node, id)))));
}

function fieldNode(root: Expression, id: string): Expression {
  return nodesOf(root).find((each) => each.op === 'field' && each.id === id) ?? root;
}

/** The failures of an expression's parts; a part that is used several times is told once, and so can be computed once. */
class Failures {
  private readonly told = new Map<Expression, Expression | undefined>();

  of(node: Expression): Expression | undefined {
    if (!this.told.has(node)) this.told.set(node, this.failing(node));
    return this.told.get(node);
  }

  private failing(node: Expression): Expression | undefined {
    switch (node.op) {
      case 'case':
        return this.failingCase(node);
      case 'coalesce':
      case 'and':
      case 'or': {
        const inside = this.anyOf(node.items);
        return inside && all(isNull(node), inside);
      }
      case 'isNull':
        return undefined;
      case 'field':
        return HAS_MISFITS.includes(node.type.kind) ? { op: 'misfit', type: yesno, of: node } : undefined;
      case 'window':
        return this.anyOf(operandsOf(node), failingWindow(node));
      default:
        return this.anyOf(
          operandsOf(node),
          canFail(node) ? all(isNull(node), ...operandsOf(node).map((of) => not(isNull(of)))) : undefined,
        );
    }
  }

  private anyOf(nodes: readonly Expression[], own?: Expression): Expression | undefined {
    const present = [...new Set([...nodes.map((each) => this.of(each)), own])].flatMap((each) => each ?? []);
    const [only] = present;
    return present.length <= 1 ? only : either(...present);
  }

  /** Failures of conditions as far as they were asked, and of the outcome that was taken. */
  private failingCase(node: Expression & { op: 'case' }): Expression | undefined {
    const branches = node.branches.flatMap(({ when, then }) => {
      const asking = this.of(when);
      return [...(asking ? [{ when: asking, then: yes }] : []), { when, then: this.of(then) ?? no }];
    });
    const otherwise = this.of(node.otherwise) ?? no;
    const silent = [...branches.map((each) => each.then), otherwise].every((each) => each === no);
    return silent ? undefined : { op: 'case', type: yesno, branches, otherwise };
  }
}

const no: Expression = { op: 'literal', type: yesno, value: false };

/** Types some source's columns of which hold more than their values. */
const HAS_MISFITS: readonly FieldType['kind'][] = ['decimal', 'date', 'datetime', 'instant'];

/** A sum that does not fit its digits is null although something was added. */
function failingWindow(node: Window): Expression | undefined {
  if (node.name !== 'sum') return undefined;
  const count: Window = { ...node, type: whole, name: 'count' };
  return all(isNull(node), compare('>', count, wholeLiteral(0)));
}

/** Whether an operation can lack a value although all its operands have one. */
function canFail(node: Expression): boolean {
  switch (node.op) {
    case 'arithmetic':
      return node.operator === '/' || node.type.kind === 'float' || mayOverflow(node.operator, node.left.type, node.right.type);
    case 'negate':
      return node.type.kind === 'float';
    case 'widen':
      return mayNotFit(node.of.type, node.type);
    case 'cast':
      return castCanFail(node);
    case 'call':
      return callCanFail(node);
    default:
      return false;
  }
}

function castCanFail({ of, type }: Expression & { op: 'cast' }): boolean {
  if (type.kind === 'text' || type.kind === 'float') return type.kind === 'float' && of.type.kind === 'text';
  if (type.kind === 'decimal' || type.kind === 'whole')
    return of.type.kind === 'text' || of.type.kind === 'float' || mayNotFit(of.type, type);
  return of.type.kind === 'text';
}

const MAY_FAIL: readonly Call['name'][] = ['captured', 'mod', 'power', 'sqrt', 'shift', 'dayOf'];

function callCanFail({ name, of, type }: Call): boolean {
  if (MAY_FAIL.includes(name)) return true;
  if (name === 'substring') return of.length > 2;
  if (name === 'abs') return type.kind === 'float';
  const rounds = name === 'round' || name === 'floor' || name === 'ceiling';
  return rounds && (type.kind === 'float' || (digitsOf(type)?.precision ?? 0) >= 38);
}
