import type { FieldType } from '../fields';
import type { SyntaxTree, TreeNode } from '../statements';
import { listOf, membersOf, namesOf, nodeOf } from '../statements';
import type { Members } from './speech';
import { say, typeAmong } from './speech';
import { stringOf } from './literals';
import type { Meaning } from './meaning';
import { typeOf } from './meaning';
import type { Said } from './said';
import { called, compared, HOLDS, one, operand, quoted, within } from './said';
import { unsaid } from './unsaid';

/** A condition: comparisons, predicates, and what joins them. Throws Unsaid where there is no counterpart. */
export function saidPredicate({ kind, of }: TreeNode, meaning: Meaning): Said {
  if (kind === 'BoolExpr') return saidJoined(of, meaning);
  if (kind === 'NullTest') return compared(`${operand(say(of.arg, meaning))} is ${of.nulltesttype === 'IS_NULL' ? 'null' : 'not null'}`);
  if (kind === 'BooleanTest') {
    const words = typeof of.booltesttype === 'string' ? of.booltesttype.replaceAll('_', ' ').toLowerCase() : '';
    return compared(`${operand(say(of.arg, meaning))} ${words}`);
  }
  return saidCompared(of, meaning);
}

function saidJoined(of: Members, meaning: Meaning): Said {
  const args = listOf(of.args);
  if (of.boolop === 'NOT_EXPR') return { text: `not ${within(HOLDS.not, say(args[0], meaning))}`, holds: HOLDS.not };
  const or = of.boolop === 'OR_EXPR';
  const holds = or ? HOLDS.or : HOLDS.and;
  const asked = or && meaning.switches ? askedWhetherBlank(args, meaning) : undefined;
  if (asked) return say(asked.condition, asked.meaning);
  return { text: args.map((each) => within(holds, say(each, meaning))).join(or ? ' or ' : ' and '), holds };
}

/**
 * `:x is null or … = :x`: the text says itself what a condition with a parameter is when that is blank, which is what the
 * parameter says in a dataset. Gives the condition, in which it switches off; undefined where it stands anywhere else too.
 */
function askedWhetherBlank(
  args: readonly SyntaxTree[],
  meaning: Meaning,
): { readonly condition: SyntaxTree; readonly meaning: Meaning } | undefined {
  const [first, second] = args;
  if (args.length !== 2 || first === undefined || second === undefined) return undefined;
  const named = (tree: SyntaxTree) => {
    const test = membersOf(tree, 'NullTest');
    const asked = test?.nulltesttype === 'IS_NULL' ? membersOf(withoutCast(test.arg), 'ParamRef') : undefined;
    return asked && meaning.parameter(asked.location);
  };
  const [met, condition] = named(first) ? [named(first), second] : [named(second), first];
  if (!met) return undefined;
  const { parameter, places } = met;
  const standing = parametersOf(condition, meaning).filter((each) => each === parameter.id).length;
  if (standing === 0 || standing !== places - 1 || !meaning.switchesOff(parameter)) return undefined;
  const off = { ...parameter, leftBlank: parameter.leftBlank === 'must be filled' ? parameter.leftBlank : ('condition is off' as const) };
  return {
    condition,
    meaning: {
      ...meaning,
      parameter: (location) => {
        const found = meaning.parameter(location);
        return found.parameter.id === parameter.id ? { ...found, parameter: off, asked: false } : found;
      },
    },
  };
}

const withoutCast = (tree: SyntaxTree | undefined) => membersOf(tree, 'TypeCast')?.arg ?? tree;

function parametersOf(tree: SyntaxTree, meaning: Meaning): readonly string[] {
  if (typeof tree !== 'object' || tree === null) return [];
  const own = membersOf(tree, 'ParamRef');
  if (own) return [meaning.parameter(own.location).parameter.id];
  return Object.values(tree).flatMap((each: SyntaxTree) => parametersOf(each, meaning));
}

const SIGNS = ['=', '<>', '<', '>', '<=', '>='];

function saidCompared(of: Members, meaning: Meaning): Said {
  const sign = namesOf(of.name).at(-1) ?? '';
  const [left, right] = [of.lexpr ?? null, of.rexpr ?? null];
  const sides = (): readonly [Said, Said] => {
    const type = typeAmong([left, right], meaning);
    return [say(left, meaning, type), say(right, meaning, type)];
  };
  switch (of.kind) {
    case 'AEXPR_OP': {
      if (!SIGNS.includes(sign)) return unsaid(`The operator ${sign} has no counterpart.`, of.location);
      const range = rangeOf(right, meaning);
      if (range !== undefined) {
        const value = operand(say(left, meaning));
        return compared(`${value} ${sign === '<>' ? 'not between' : 'between'} ${range} and ${range}`);
      }
      const [a, b] = sides();
      return compared(`${operand(a)} ${sign} ${operand(b)}`);
    }
    case 'AEXPR_DISTINCT':
    case 'AEXPR_NOT_DISTINCT': {
      const [a, b] = sides();
      return compared(`${operand(a)} is ${of.kind === 'AEXPR_DISTINCT' ? '' : 'not '}distinct from ${operand(b)}`);
    }
    case 'AEXPR_IN':
      return saidAmong(left, listOf(membersOf(right, 'List')?.items), sign === '<>', meaning);
    case 'AEXPR_OP_ANY':
    case 'AEXPR_OP_ALL': {
      const negated = of.kind === 'AEXPR_OP_ALL' && sign === '<>';
      if (!negated && !(of.kind === 'AEXPR_OP_ANY' && sign === '='))
        return unsaid(`${sign} ${of.kind === 'AEXPR_OP_ANY' ? 'any' : 'all'} has no counterpart.`, of.location);
      const elements = membersOf(right, 'A_ArrayExpr');
      return saidAmong(left, elements ? listOf(elements.elements) : [right], negated, meaning);
    }
    case 'AEXPR_BETWEEN':
    case 'AEXPR_NOT_BETWEEN': {
      const ends = listOf(membersOf(right, 'List')?.items);
      const type = typeAmong([left, ...ends], meaning);
      const [value, low, high] = [left, ...ends].map((each) => operand(say(each, meaning, type)));
      return compared(`${value} ${of.kind === 'AEXPR_BETWEEN' ? '' : 'not '}between ${low} and ${high}`);
    }
    case 'AEXPR_LIKE':
    case 'AEXPR_ILIKE':
      return saidLike(left, right, sign.startsWith('!'), of.kind === 'AEXPR_ILIKE', meaning);
    default:
      return unsaid('This comparison has no counterpart.', of.location);
  }
}

/** A parameter that takes a range, where one stands. */
function rangeOf(tree: SyntaxTree, meaning: Meaning): string | undefined {
  const reference = membersOf(tree, 'ParamRef');
  const parameter = reference && meaning.parameter(reference.location).parameter;
  return parameter?.takes === 'range' ? `:${parameter.name}` : undefined;
}

function saidAmong(of: SyntaxTree, values: readonly SyntaxTree[], negated: boolean, meaning: Meaning): Said {
  const value = say(of, meaning);
  const type = typeOf(value, meaning);
  const [only] = values;
  const reference = values.length === 1 ? membersOf(only, 'ParamRef') : undefined;
  const met = reference && meaning.parameter(reference.location);
  const parameter = met?.parameter;
  const word = negated ? 'not in' : 'in';
  if (parameter?.takes === 'several') {
    if (meaning.switches && parameter.leftBlank !== 'must be filled' && (met?.asked || parameter.leftBlank === 'matches empty'))
      unsaid(`Left blank, :${parameter.name} is null in the text, and decides about a whole condition in steps.`, reference?.location);
    return compared(`${operand(value)} ${word} :${parameter.name}`);
  }
  if (values.length === 0 || nodeOf(only)?.kind === 'SubLink') return unsaid('This list has no counterpart.');
  return compared(`${operand(value)} ${word} (${values.map((each) => say(each, meaning, type).text).join(', ')})`);
}

function saidLike(of: SyntaxTree, pattern: SyntaxTree, negated: boolean, anyCase: boolean, meaning: Meaning): Said {
  const own = say(of, meaning);
  const value = anyCase ? called('lower', own) : own;
  const type: FieldType = { kind: 'text' };
  const escaping = membersOf(pattern, 'FuncCall');
  const [shape, escape] = escaping && namesOf(escaping.funcname).at(-1) === 'like_escape' ? listOf(escaping.args) : [pattern, undefined];
  const text = stringOf(shape);
  const word = negated ? 'not like' : 'like';
  if (text === undefined || escape !== undefined) {
    const said = say(shape, meaning, type);
    const by = escape === undefined ? '' : ` escape ${quoted(stringOf(escape) ?? '')}`;
    return compared(`${operand(value)} ${word} ${operand(anyCase ? called('lower', said) : said)}${by}`);
  }
  const written = anyCase ? text.toLowerCase() : text;
  const [, lead = '', middle = '', tail = ''] = /^(%?)([^%_\\]+)(%?)$/.exec(written) ?? [];
  if (middle !== '' && tail === '%' && !anyCase) {
    const found = `position(${quoted(middle)} in ${value.text}) ${lead === '%' ? '> 0' : '= 1'}`;
    return negated ? { text: `not ${found}`, holds: HOLDS.not } : compared(found);
  }
  const escaped = written.includes('\\') ? ` escape ${quoted('\\')}` : '';
  return compared(`${operand(value)} ${word} ${one(quoted(written)).text}${escaped}`);
}
