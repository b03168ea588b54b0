import type { SyntaxTree } from '../statements';
import { conjunctsOf, listOf, membersOf, namesOf } from '../statements';
import { arrangeStep } from '../steps';
import { sayCriteria } from './clauses';
import type { Members } from './speech';
import type { FromOf, Given, Query } from './from';
import { columnsNamed, isIn, joined, sayFrom } from './from';
import type { Names } from './names';
import { columnIn } from './names';
import { unsaid } from './unsaid';

/** A condition that asks whether another row is there: `exists (…)`, `not exists (…)`, `x in (select …)`. */
interface HalfJoin {
  readonly link: Members;
  readonly negated: boolean;
}

export function halfJoinOf(condition: SyntaxTree): HalfJoin | undefined {
  const not = membersOf(condition, 'BoolExpr');
  const inner = not?.boolop === 'NOT_EXPR' ? listOf(not.args)[0] : condition;
  const link = membersOf(inner, 'SubLink');
  const asks = link?.subLinkType === 'EXISTS_SUBLINK' || (link?.subLinkType === 'ANY_SUBLINK' && link.operName === undefined);
  return link && asks ? { link, negated: inner !== condition } : undefined;
}

/** Rows of which another one is there, or none: a join that brings nothing in. Throws Unsaid where no join says it. */
export function sayHalfJoin(given: Given, { link, negated }: HalfJoin, from: FromOf): Given {
  const { location } = link;
  const select = membersOf(link.subselect, 'SelectStmt') ?? {};
  const exists = link.subLinkType === 'EXISTS_SUBLINK';
  if (!exists && negated) return unsaid('`not in` leaves no row once a value is null, which no join does.', location);
  const { right, pairs } = exists ? there(given, select, from) : among(link, from.query(select));
  if (pairs.length === 0) return unsaid('Nothing in the query within looks at the row beside it.', location);
  const partner = negated ? right : once(right, pairs, from);
  const keeps = { met: !negated, left: negated, right: false };
  const { rows } = joined(from.saying, given, partner, keeps, pairs, []);
  return { rows, names: given.names };
}

interface Partner {
  readonly right: Given;
  /** Conditions that look at both. */
  readonly pairs: readonly SyntaxTree[];
}

function there(given: Given, select: Members, from: FromOf): Partner {
  const odd = ['groupClause', 'havingClause', 'limitCount', 'limitOffset', 'larg', 'withClause', 'valuesLists'].some(
    (each) => select[each] !== undefined,
  );
  if (odd) return unsaid('This query within a condition has no step.');
  const conditions = conjunctsOf(select.whereClause);
  const { rows, names, left } = sayFrom(listOf(select.fromClause), [], from);
  const asked = [...left, ...conditions];
  const own = asked.filter((each) => columnsNamed(each).every((column) => isIn(column, names)));
  const pairs = asked.filter((each) => !own.includes(each));
  if (pairs.some((each) => columnsNamed(each).some((column) => !isIn(column, names) && !isIn(column, given.names))))
    return unsaid('It looks at something that is not known here.');
  const meaning = from.saying.meaning(rows, columnIn(names, rows.arriving.schema), new Map(), true);
  return { right: { rows: sayCriteria(from.saying, rows, own, meaning, () => undefined), names }, pairs };
}

const FOUND = 'found';

function among({ testexpr = null }: Members, { rows, columns }: Query): Partner {
  const [column, second] = columns;
  if (!column || second) return unsaid('It is looked for among several columns at once.');
  const names: Names = { reads: [{ alias: FOUND, columns: [column] }], merged: [] };
  const found = { ColumnRef: { fields: [{ String: { sval: FOUND } }, { String: { sval: column.name } }] } };
  const equals = { A_Expr: { kind: 'AEXPR_OP', name: [{ String: { sval: '=' } }], lexpr: testexpr, rexpr: found } };
  return { right: { rows, names }, pairs: [equals] };
}

/** The rows of a partner, one for all that are alike in what is compared, so that none is met twice. */
function once({ rows, names }: Given, pairs: readonly SyntaxTree[], { saying }: FromOf): Given {
  const column = columnIn(names, rows.arriving.schema);
  const compared = pairs.map((pair) => {
    const equals = membersOf(pair, 'A_Expr');
    const sides = [equals?.lexpr, equals?.rexpr].flatMap((each) => {
      const own = namesOf(membersOf(each, 'ColumnRef')?.fields);
      return own.length > 0 && isIn(own, names) ? [own] : [];
    });
    const [only, second] = sides;
    const plain = equals?.kind === 'AEXPR_OP' && namesOf(equals.name).at(-1) === '=' && only !== undefined && second === undefined;
    return plain
      ? column(only, equals.location).id
      : unsaid('Several rows may be there, and only an equal one can be told once.', membersOf(pair, 'A_Expr')?.location);
  });
  const told = rows.arriving.grain.keys.some((key) => key.every((each) => compared.includes(each)));
  if (told) return { rows, names };
  const fields = [...new Set(compared)];
  const step = {
    ...arrangeStep(saying.of.mint, rows.step),
    distinct: fields,
    fields: fields.map((field) => ({ field, forUseOnly: false })),
  };
  const alike = saying.put(step);
  const kept = ({ columns, ...read }: Names['reads'][number]) => ({
    ...read,
    columns: columns.filter(({ field }) => fields.includes(field)),
  });
  return { rows: alike, names: { reads: names.reads.map(kept), merged: names.merged.filter(({ field }) => fields.includes(field)) } };
}
