import type { FieldType } from '../fields';
import { date, datetime, decimal, float, instant, isDay, isNumber, sameType, text, time, whole, yesno } from '../fields';
import { parameterType } from '../parameters';
import type { Problem, Span } from '../problem';
import { problem } from '../problem';
import { parseDate, parseDatetime, parseDecimal, parseInstant, parseTime } from '../values';
import { tooManyOperations } from './budget';
import { all, call, compare, either, isNull, isNullLiteral, not, NULL, widen } from './build';
import { checkCall } from './check-calls';
import { checkCast } from './check-casts';
import { dayArithmetic, dayDifference, isInterval } from './check-days';
import { checkNow } from './check-moments';
import { checkName, checkParameter, findParameter } from './check-names';
import { checkWindow } from './check-windows';
import type { Checking } from './checking';
import { alike, article, mixed, unify } from './checking';
import type { Expression, Reference } from './expression';
import { parseExpression } from './parse';
import type { Part } from './parts';
import { partOf } from './parts';
import { arithmeticType, commonType } from './rules';
import type { Scope } from './scope';
import type { Tree } from './tree';

export interface CheckedExpression {
  /** Undefined when there are problems. */
  readonly expression?: Expression;
  /** The same expression as the text is nested. */
  readonly part?: Part;
  readonly problems: readonly Problem[];
}

/** Text to a typed expression, or to problems with positions. Nothing is evaluated. */
export function checkExpression(source: string, scope: Scope): CheckedExpression {
  const unread = scope.budget?.read(source);
  if (unread) return { problems: [unread] };
  const parsed = parseExpression(source);
  if (parsed.problems.length > 0) return { problems: parsed.problems };
  const checker = new Checker(scope);
  const expression = checker.check(parsed.tree);
  if (!expression || checker.problems.length > 0) return { problems: checker.problems };
  const unaffordable = tooManyOperations(source, expression) ?? scope.budget?.check(source, expression);
  if (unaffordable) return { problems: [unaffordable] };
  return { expression, part: partOf(parsed.tree, checker.nodes, expression), problems: [] };
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

class Checker implements Checking {
  readonly problems: Problem[] = [];
  readonly nodes = new Map<Tree, Expression>();

  private readonly links: ReadonlyMap<number, Reference>;

  constructor(readonly scope: Scope) {
    this.links = new Map((scope.refs ?? []).map((each) => [each.from, each]));
  }

  linkedTo(kind: Reference['kind'], { from, to }: Span): string | undefined {
    const found = this.links.get(from);
    return found?.kind === kind && found.to === to ? found.id : undefined;
  }

  check(tree: Tree): Expression | undefined {
    const node = this.nodeOf(tree);
    if (node) this.nodes.set(tree, node);
    return node;
  }

  private nodeOf(tree: Tree): Expression | undefined {
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
        return checkName(this, tree);
      case 'parameter':
        return checkParameter(this, tree);
      case 'now':
        return checkNow(this, tree);
      case 'interval':
        return dayArithmetic(this, { ...tree, node: 'arithmetic', operator: '*', left: tree, right: tree });
      case 'arithmetic':
        return this.arithmetic(tree);
      case 'concat':
        return this.concat(tree);
      case 'distinct': {
        const sides = this.alike(tree.left, tree.right);
        return negated(sides && sameOrNull(...sides), !tree.negated);
      }
      case 'isTruth':
        return negated(this.truth(tree), tree.negated);
      case 'case':
        return this.case(tree);
      case 'cast':
        return checkCast(this, tree);
      case 'call':
        return checkCall(this, tree);
      case 'window':
        return checkWindow(this, tree);
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
          : momentOf(tree.text);
    if (value !== undefined) return { op: 'literal', type, value };
    return this.fail(
      'date-unreadable',
      `'${tree.text}' is not ${article(type)}.`,
      tree,
      `for example ${tree.type} '${EXAMPLES[tree.type]}'`,
    );
  }

  private arithmetic(tree: Tree & { node: 'arithmetic' }): Expression | undefined {
    if (isInterval(tree.left) || isInterval(tree.right)) return dayArithmetic(this, tree);
    const left = this.check(tree.left);
    const right = this.check(tree.right);
    if (!left || !right) return undefined;
    if (isDay(left.type) || isDay(right.type)) return dayDifference(this, tree, left, right);
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
      const found = findParameter(this, only);
      if (!of || !found) return undefined;
      if (found.takes === 'several') {
        const common = commonType(of.type, parameterType(found));
        if (!common) return mixed(this, of.type, parameterType(found), only);
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

  private textual(tree: Tree, word = 'like compares'): Expression | undefined {
    const node = this.check(tree);
    if (!node || node.type.kind === 'text') return node;
    if (isNullLiteral(node)) return widen(node, text);
    return this.fail('type-mixed', `${word} text, and this is ${article(node.type)}.`, tree, 'a text, such as cast(… as text)');
  }

  private concat(tree: Tree & { node: 'concat' }): Expression | undefined {
    const [left, right] = [this.textual(tree.left, '“||” joins'), this.textual(tree.right, '“||” joins')];
    return left && right && call('concat', text, left, right);
  }

  private truth(tree: Tree & { node: 'isTruth' }): Expression | undefined {
    const of = this.yesno(tree.of);
    if (!of) return undefined;
    if (tree.truth === null) return isNull(of);
    return { op: 'isTrue', type: yesno, of: tree.truth ? of : not(of) };
  }

  private case(tree: Tree & { node: 'case' }): Expression | undefined {
    const { operand } = tree;
    const conditions = tree.branches.map(({ when: condition }) => {
      const sides = operand && this.alike(operand, condition);
      return operand ? sides && compare('=', ...sides) : this.yesno(condition);
    });
    const outcomes = [...tree.branches.map((each) => each.then), ...(tree.otherwise ? [tree.otherwise] : [])].flatMap((each) => {
      const node = this.check(each);
      return node ? [{ node, tree: each }] : [];
    });
    const expected = tree.branches.length + (tree.otherwise ? 1 : 0);
    if (outcomes.length < expected || conditions.some((each) => each === undefined)) return undefined;
    const values = alike(this, tree.otherwise ? outcomes : [...outcomes, { node: NULL, tree }]);
    const otherwise = values?.[values.length - 1];
    if (!values || !otherwise) return undefined;
    const branches = conditions.flatMap((condition, index) => {
      const then = values[index];
      return condition && then ? [{ when: condition, then }] : [];
    });
    return { op: 'case', type: otherwise.type, branches, otherwise };
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

  private unify(left: Expression, right: Expression, at: Tree): readonly [Expression, Expression] | undefined {
    return unify(this, left, right, at);
  }

  fail(code: string, message: string, at: Span, expected?: string, instead?: string): undefined {
    const found = problem(code, message, { position: { from: at.from, to: at.to } }, expected);
    this.problems.push(instead === undefined ? found : { ...found, instead });
    return undefined;
  }
}

/** Equal, or both null. */
function sameOrNull(left: Expression, right: Expression): Expression {
  return either({ op: 'isTrue', type: yesno, of: compare('=', left, right) }, all(isNull(left), isNull(right)));
}

const EXAMPLES = { date: '2025-04-30', time: '14:30', timestamp: '2025-04-30 14:30' };
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

/** By the standard, a timestamp with its offset is an instant. */
function momentOf(source: string): readonly [FieldType, bigint | undefined] {
  const local = parseDatetime(source);
  const moment = local === undefined ? parseInstant(source) : undefined;
  return moment === undefined ? [datetime, local] : [instant, moment];
}
