import type { FieldType } from '../fields';
import { listOf, membersOf, namesOf, nodeOf } from '../statements';
import { saidOperation } from './arithmetic';
import { saidCall } from './calls';
import { saidCast } from './casts';
import { literal } from './literals';
import type { Meaning } from './meaning';
import { fieldSaid, typeOf } from './meaning';
import { saidPredicate } from './predicates';
import type { Said } from './said';
import { called, one } from './said';
import type { Members } from './speech';
import { say, sayAll, typeAmong } from './speech';
import { unsaid } from './unsaid';

/** An expression by its kind; see `say`. */
export const saidExpression: Meaning['say'] = (tree, meaning, beside) => {
  const node = nodeOf(tree);
  if (!node || tree === undefined) return unsaid('Nothing stands here.');
  const field = meaning.instead?.(tree);
  if (field) return fieldSaid(field, meaning.scope);
  const { kind, of } = node;
  switch (kind) {
    case 'ColumnRef':
      return fieldSaid(meaning.column(namesOf(of.fields), of.location), meaning.scope);
    case 'A_Const':
      return literal(tree, beside);
    case 'ParamRef':
      return saidParameter(of, meaning);
    case 'TypeCast':
      return saidCast(of, meaning);
    case 'BoolExpr':
    case 'NullTest':
    case 'BooleanTest':
      return saidPredicate(node, meaning);
    case 'A_Expr':
      return saidOperation(of, meaning) ?? saidPredicate(node, meaning);
    case 'CaseExpr':
      return saidCase(of, meaning, beside);
    case 'CoalesceExpr':
      return called('coalesce', ...sayAll(listOf(of.args), meaning, beside));
    case 'MinMaxExpr':
      return saidExtreme(of, meaning);
    case 'SQLValueFunction':
      return saidNow(of);
    case 'FuncCall':
      return saidCall(of, meaning);
    case 'SubLink':
      return unsaid('A query within an expression has no counterpart.', of.location);
    default:
      return unsaid(`${NAMES[kind] ?? 'This'} has no counterpart in expressions.`, of.location);
  }
};

const NAMES: Readonly<Record<string, string>> = {
  A_ArrayExpr: 'An array',
  A_Indirection: 'A part of an array or a row',
  RowExpr: 'A row of values',
  CollateClause: 'A collation',
  GroupingFunc: '`grouping`',
};

function saidParameter({ location }: Members, meaning: Meaning): Said {
  const { parameter, asked } = meaning.parameter(location);
  if (parameter.takes !== 'one') unsaid(`:${parameter.name} takes more than one value, and stands as one here.`, location);
  const blank = parameter.leftBlank;
  if (meaning.switches && blank !== 'must be filled' && (asked || blank === 'matches empty'))
    unsaid(`Left blank, :${parameter.name} is null in the text, and decides about a whole condition in steps.`, location);
  return one(`:${parameter.name}`);
}

function saidCase(of: Members, meaning: Meaning, beside: FieldType | undefined): Said {
  const branches = listOf(of.args).map((each) => membersOf(each, 'CaseWhen') ?? {});
  const results = [...branches.map((each) => each.result ?? null), ...(of.defresult === undefined ? [] : [of.defresult])];
  const told = beside ?? typeAmong(results, meaning);
  const chosen = of.arg === undefined ? undefined : say(of.arg, meaning);
  const type = chosen && typeOf(chosen, meaning);
  const written = branches.map(({ expr, result }) => `when ${say(expr, meaning, type).text} then ${say(result, meaning, told).text}`);
  const otherwise = of.defresult === undefined ? [] : [`else ${say(of.defresult, meaning, told).text}`];
  return one(['case', ...(chosen ? [chosen.text] : []), ...written, ...otherwise, 'end'].join(' '));
}

/** The greatest and least of a text leave nulls out, and ours are null with one. */
function saidExtreme(of: Members, meaning: Meaning): Said {
  const all = sayAll(listOf(of.args), meaning);
  const extreme = called(of.op === 'IS_GREATEST' ? 'greatest' : 'least', ...all);
  if (all.length > 2) unsaid('The greatest or least of more than two, leaving nulls out, has no counterpart.', of.location);
  return called('coalesce', extreme, ...all);
}

function saidNow({ op, location }: Members): Said {
  const word = typeof op === 'string' ? op.replace(/^SVFOP_/, '').toLowerCase() : '';
  return ['current_date', 'current_timestamp', 'localtimestamp'].includes(word) ? one(word) : unsaid('This has no counterpart.', location);
}
