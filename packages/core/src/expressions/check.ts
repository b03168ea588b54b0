import type { FieldType } from '../fields';
import { date, datetime, fieldById, fieldByName, float, isNumber, time, typeWord, whole, yesno, decimal, sameType } from '../fields';
import { parameterType } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import { parseDate, parseDatetime, parseDecimal, parseTime } from '../values';
import type { Expression } from './expression';
import { nearestName } from './nearest';
import { parseExpression } from './parse';
import { arithmeticType, commonType } from './rules';
import type { Scope } from './scope';
import type { Tree } from './tree';

export interface CheckedExpression {
  /** Undefined when there are problems. */
  readonly expression?: Expression;
  readonly problems: readonly Problem[];
}

/** Text to a typed expression, or to problems with positions. Nothing is evaluated. */
export function checkExpression(source: string, scope: Scope): CheckedExpression {
  const parsed = parseExpression(source);
  if (parsed.problems.length > 0) return { problems: parsed.problems };
  const checker = new Checker(scope);
  const expression = checker.check(parsed.tree);
  return expression && checker.problems.length === 0 ? { expression, problems: [] } : { problems: checker.problems };
}

/** As `checkExpression`, and the expression must be yes/no. */
export function checkCondition(source: string, scope: Scope): CheckedExpression {
  const checked = checkExpression(source, scope);
  if (!checked.expression || checked.expression.type.kind === 'yesno') return checked;
  if (isNullLiteral(checked.expression)) return { expression: widen(checked.expression, yesno), problems: [] };
  const message = `This gives ${article(checked.expression.type)}, and a condition gives yes or no.`;
  return {
    problems: [problem('condition-not-yesno', message, { position: { from: 0, to: source.length } }, 'a comparison, such as kilos >= 5')],
  };
}

const article = (type: FieldType) => `a ${typeWord(type)}`;

/** Nulls take the type of what they meet; alone they are text. */
const NULL: Expression = { op: 'literal', type: { kind: 'text' }, value: null };
const isNullLiteral = (node: Expression) => node.op === 'literal' && node.value === null;

export function widen(node: Expression, type: FieldType): Expression {
  if (isNullLiteral(node)) return { op: 'literal', type, value: null };
  return sameType(node.type, type) ? node : { op: 'widen', type, of: node };
}

class Checker {
  readonly problems: Problem[] = [];

  constructor(private readonly scope: Scope) {}

  check(tree: Tree): Expression | undefined {
    switch (tree.node) {
      case 'number':
        return this.number(tree.text);
      case 'string':
        return { op: 'literal', type: { kind: 'text' }, value: tree.text };
      case 'dated':
        return this.dated(tree);
      case 'constant':
        return tree.value === null ? NULL : { op: 'literal', type: yesno, value: tree.value };
      case 'name':
        return this.name(tree);
      case 'parameter':
        return this.parameter(tree);
      case 'arithmetic':
        return this.arithmetic(tree);
      case 'negate':
        return this.negate(tree);
      case 'compare': {
        const sides = this.alike(tree.left, tree.right);
        return sides && { op: 'compare', type: yesno, operator: tree.operator, left: sides[0], right: sides[1] };
      }
      case 'and':
      case 'or': {
        const items = tree.items.map((item) => this.yesno(item));
        return items.every((item) => item !== undefined) ? { op: tree.node, type: yesno, items } : undefined;
      }
      case 'not':
        return negated(this.yesno(tree.of), true);
      case 'isNull': {
        const of = this.check(tree.of);
        return negated(of && { op: 'isNull', type: yesno, of }, tree.negated);
      }
      case 'between':
        return negated(this.between(tree), tree.negated);
      case 'in':
        return negated(this.membership(tree), tree.negated);
      case 'like':
        return negated(this.like(tree), tree.negated);
      case 'missing':
        return undefined;
    }
  }

  private number(source: string): Expression | undefined {
    if (/[eE]/.test(source)) return { op: 'literal', type: float, value: Number(source) };
    const value = parseDecimal(source);
    if (!value) return undefined;
    const size = Math.max(value.digits.toString().length, value.scale + 1);
    if (value.scale === 0 && size <= 18) return { op: 'literal', type: whole, value };
    return { op: 'literal', type: decimal(Math.max(size, 1), value.scale), value };
  }

  private dated(tree: Tree & { node: 'dated' }): Expression | undefined {
    const [type, value] =
      tree.type === 'date'
        ? ([date, parseDate(tree.text)] as const)
        : tree.type === 'time'
          ? ([time, parseTime(tree.text)] as const)
          : ([datetime, parseDatetime(tree.text)] as const);
    if (value !== undefined) return { op: 'literal', type, value };
    return this.fail(
      'date-unreadable',
      `'${tree.text}' is not a ${typeWord(type)}.`,
      tree,
      `for example ${tree.type} '${EXAMPLES[tree.type]}'`,
    );
  }

  private name(tree: Tree & { node: 'name' }): Expression | undefined {
    const ref = this.scope.refs?.find((each) => each.kind === 'field' && each.from === tree.from && each.to === tree.to);
    const field = ref ? fieldById(this.scope.schema, ref.id) : fieldByName(this.scope.schema, tree.name, tree.quoted);
    if (field) return { op: 'field', type: field.type, id: field.id };
    const near = nearestName(
      tree.name,
      this.scope.schema.fields.map((each) => each.name),
    );
    return this.fail('field-unknown', `There is no field ${tree.name} here.`, tree, near ? `did you mean ${near}?` : undefined);
  }

  private parameter(tree: Tree & { node: 'parameter' }): Expression | undefined {
    const found = this.findParameter(tree);
    if (!found) return undefined;
    if (found.takes === 'one') return { op: 'parameter', type: parameterType(found), id: found.id };
    const place = found.takes === 'several' ? 'after in' : 'after between, as between :name and :name';
    return this.fail(
      'parameter-takes',
      `:${found.name} takes ${found.takes === 'several' ? 'several values' : 'a range'}.`,
      tree,
      `to stand ${place}`,
    );
  }

  private findParameter(tree: Tree & { node: 'parameter' }) {
    const ref = this.scope.refs?.find((each) => each.kind === 'parameter' && each.from === tree.from && each.to === tree.to);
    const found = this.scope.parameters.find((each) => (ref ? each.id === ref.id : each.name === tree.name));
    if (!found) {
      const near = nearestName(
        tree.name,
        this.scope.parameters.map((each) => each.name),
      );
      this.fail(
        'parameter-unknown',
        `There is no parameter :${tree.name}.`,
        tree,
        near ? `did you mean :${near}?` : 'the name of a parameter of this dataset',
      );
    }
    return found;
  }

  private arithmetic(tree: Tree & { node: 'arithmetic' }): Expression | undefined {
    const left = this.check(tree.left);
    const right = this.check(tree.right);
    if (!left || !right) return undefined;
    const a = isNullLiteral(left) ? right.type : left.type;
    const b = isNullLiteral(right) ? left.type : right.type;
    const type = arithmeticType(tree.operator, a, b);
    if (!type) {
      const wrong = isNumber(a) ? tree.right : tree.left;
      const found = isNumber(a) ? b : a;
      return this.fail('type-mixed', `“${tree.operator}” calculates with numbers, and this is ${article(found)}.`, wrong, 'a number');
    }
    const target = (node: Expression, own: FieldType) => (type.kind === 'float' ? widen(node, float) : widen(node, own));
    return { op: 'arithmetic', type, operator: tree.operator, left: target(left, a), right: target(right, b) };
  }

  private negate(tree: Tree & { node: 'negate' }): Expression | undefined {
    const of = this.check(tree.of);
    if (!of) return undefined;
    if (!isNumber(of.type) && !isNullLiteral(of))
      return this.fail('type-mixed', `A minus sign stands before ${article(of.type)}.`, tree.of, 'a number');
    if (of.op === 'literal' && of.value !== null && typeof of.value === 'object') {
      return { ...of, value: { digits: -of.value.digits, scale: of.value.scale } };
    }
    const type = of.type.kind === 'whole' ? decimal(19, 0) : of.type;
    return { op: 'negate', type, of };
  }

  private between(tree: Tree & { node: 'between' }): Expression | undefined {
    const range = this.range(tree);
    const low = range ? this.ends(tree, range, 'from') : this.alike(tree.of, tree.low);
    const high = range ? this.ends(tree, range, 'until') : this.alike(tree.of, tree.high);
    if (!low || !high) return undefined;
    return {
      op: 'and',
      type: yesno,
      items: [
        { op: 'compare', type: yesno, operator: '>=', left: low[0], right: low[1] },
        { op: 'compare', type: yesno, operator: '<=', left: high[0], right: high[1] },
      ],
    };
  }

  /** `between :period and :period` names one range parameter; its two ends are meant. */
  private range(tree: Tree & { node: 'between' }) {
    if (tree.low.node !== 'parameter' || tree.high.node !== 'parameter' || tree.low.name !== tree.high.name) return undefined;
    const { name } = tree.low;
    return this.scope.parameters.find((each) => each.takes === 'range' && each.name === name);
  }

  private ends(tree: Tree & { node: 'between' }, parameter: Scope['parameters'][number], part: 'from' | 'until') {
    const of = this.check(tree.of);
    const end: Expression = { op: 'parameter', type: parameterType(parameter), id: parameter.id, part };
    return of && this.unify(of, end, tree.low);
  }

  private membership(tree: Tree & { node: 'in' }): Expression | undefined {
    const of = this.check(tree.of);
    const [only] = tree.items;
    if (tree.items.length === 1 && only?.node === 'parameter') {
      const found = this.findParameter(only);
      if (!of || !found) return undefined;
      if (found.takes === 'several') {
        const common = commonType(of.type, parameterType(found));
        if (!common) return this.mixed(of.type, parameterType(found), only);
        return { op: 'inList', type: yesno, listType: parameterType(found), of, id: found.id };
      }
    }
    const pairs = tree.items.map((item) => this.alike(tree.of, item));
    if (!of || pairs.some((pair) => pair === undefined)) return undefined;
    const compared = pairs.flatMap((pair) => (pair ? [pair] : []));
    const items = compared.map(([left, right]): Expression => ({ op: 'compare', type: yesno, operator: '=', left, right }));
    const first = compared[0];
    const uniform = first && compared.every(([left]) => sameType(left.type, first[0].type));
    if (uniform) return { op: 'in', type: yesno, of: first[0], items: compared.map(([, right]) => right) };
    return items.length === 1 ? items[0] : { op: 'or', type: yesno, items };
  }

  private like(tree: Tree & { node: 'like' }): Expression | undefined {
    const of = this.textual(tree.of);
    const pattern = this.textual(tree.pattern);
    if (!of || !pattern) return undefined;
    if (!tree.escape) return { op: 'like', type: yesno, of, pattern };
    const escape = tree.escape.node === 'string' ? tree.escape.text : '';
    if ([...escape].length !== 1)
      return this.fail('escape-wrong', 'The escape is not one character.', tree.escape, "one character, such as '!'");
    if (tree.pattern.node !== 'string')
      return this.fail('escape-needs-text', 'With an escape, the pattern is written out.', tree.pattern, 'a text in single quotes');
    if (danglingEscape(tree.pattern.text, escape))
      return this.fail('escape-dangling', 'The pattern ends with its escape character, which escapes nothing.', tree.pattern);
    return { op: 'like', type: yesno, of, pattern, escape };
  }

  private textual(tree: Tree): Expression | undefined {
    const node = this.check(tree);
    if (!node || isNullLiteral(node) || node.type.kind === 'text') return node;
    return this.fail('type-mixed', `like compares text, and this is ${article(node.type)}.`, tree, 'a text');
  }

  private yesno(tree: Tree): Expression | undefined {
    const node = this.check(tree);
    if (!node || node.type.kind === 'yesno') return node;
    if (isNullLiteral(node)) return widen(node, yesno);
    return this.fail('type-mixed', `A condition is expected, and this is ${article(node.type)}.`, tree, 'a comparison, such as kilos >= 5');
  }

  private alike(leftTree: Tree, rightTree: Tree): readonly [Expression, Expression] | undefined {
    const left = this.check(leftTree);
    const right = this.check(rightTree);
    return left && right && this.unify(left, right, rightTree);
  }

  /** Both sides in the type they are compared in. */
  private unify(left: Expression, right: Expression, at: Tree): readonly [Expression, Expression] | undefined {
    if (isNullLiteral(left)) return [widen(left, right.type), right];
    if (isNullLiteral(right)) return [left, widen(right, left.type)];
    const common = commonType(left.type, right.type);
    if (!common) return this.mixed(left.type, right.type, at);
    // Numbers of exact types compare exactly as they are; only floating numbers and dates need converting.
    if (common.kind === 'decimal') return [left, right];
    return [widen(left, common), widen(right, common)];
  }

  private mixed(left: FieldType, right: FieldType, at: Tree): undefined {
    return this.fail(
      'type-mixed',
      `A ${typeWord(left)} cannot be compared with ${article(right)}.`,
      at,
      EXPECTED[left.kind] ?? `a ${typeWord(left)}`,
    );
  }

  private fail(code: string, message: string, at: Tree, expected?: string): undefined {
    this.problems.push(problem(code, message, { position: { from: at.from, to: at.to } }, expected));
    return undefined;
  }
}

const EXAMPLES = { date: '2025-04-30', time: '14:30', timestamp: '2025-04-30 14:30' };
const EXPECTED: Partial<Record<FieldType['kind'], string>> = {
  whole: 'a number, such as 5',
  decimal: 'a number, such as 5',
  float: 'a number, such as 5',
  date: "a date, such as date '2025-04-30'",
  text: 'a text in single quotes',
  datetime: "a date-time, such as timestamp '2025-04-30 14:30'",
};

function negated(node: Expression | undefined, negate: boolean): Expression | undefined {
  return node && negate ? { op: 'not', type: yesno, of: node } : node;
}

function danglingEscape(pattern: string, escape: string): boolean {
  const chars = [...pattern];
  for (let at = 0; at < chars.length; at++) {
    if (chars[at] !== escape) continue;
    if (++at >= chars.length) return true;
  }
  return false;
}
