import type { Problem } from '../problem';
import { brokenText } from './check-text';
import type { TextContext } from './findings';
import { NOTHING_AROUND, textFindings } from './findings';
import { finding } from './findings/looked-at';
import type { Parse, ParsedStatement, SyntaxTree } from './grammar';
import { membersOf, nodeOf, nodesIn, Offsets, wordAt } from './grammar';
import type { TempNames } from './guard-script';
import { guardStatement, NO_TEMPS } from './guard-script';
import { inPlace } from './in-place';
import type { TextStatement } from './split';
import { statementsIn } from './split';
import { tokensOf } from './tokens';

/**
 * What the grammar says of a script, statement by statement: up to the first that cannot be read or would change more
 * than temp tables; where there is none, what is worth a look in it.
 */
export function checkScript(
  text: string,
  parse: Parse,
  context: TextContext = NOTHING_AROUND,
  { before, after }: ScriptsAround = NO_OTHERS,
): readonly Problem[] {
  const found: Problem[] = [];
  const earlier = before.reduce<readonly ReadStatement[]>((read, each) => [...read, ...statementsRead(each, parse, read)], []);
  const read: ReadStatement[] = [...earlier];
  let temps: TempNames = earlier.at(-1)?.after ?? NO_TEMPS;
  const statements = statementsIn(tokensOf(text));
  for (const [index, { from, to }] of statements.entries()) {
    const own = text.slice(from, to);
    const [statement] = statementsIn(tokensOf(own));
    if (!statement) continue;
    const form = inPlace(own, statement);
    const parsed = parse(form);
    const here = (each: Problem) => inScript(each, statements.length > 1 ? index + 1 : undefined, from);
    if (!parsed.ok) return [here(brokenText(own, parsed))];
    const guarded = guardStatement(form, parsed, temps);
    if (guarded.problems.length > 0) return guarded.problems.map(here);
    const [first] = parsed.statements;
    if (!first) continue;
    found.push(...textFindings(own, form, { ok: true, statements: queriesOf(first) }, { ...context, temps: [...temps.keys()] }).map(here));
    found.push(...withoutCondition(own, form, first, statement).map(here));
    read.push({ number: index + 1, from, reads: readIn(own, form, first), made: guarded.act, before: temps, after: guarded.temps });
    temps = guarded.temps;
  }
  const own = read.slice(earlier.length);
  const later = after.reduce<readonly ReadStatement[]>((all, each) => [...all, ...statementsRead(each, parse, [...read, ...all])], []);
  const told = ofTemps([...read, ...later], own);
  return [...found, ...told].toSorted((a, b) => (a.place.position?.from ?? 0) - (b.place.position?.from ?? 0));
}

/** The texts of scripts that run in the same session, in their order: those before this one, and those that go on behind it. */
export interface ScriptsAround {
  readonly before: readonly string[];
  readonly after: readonly string[];
}

const NO_OTHERS: ScriptsAround = { before: [], after: [] };

/** The statements of a script that runs in the same session, as far as they can be read; what is wrong with it is said there. */
function statementsRead(text: string, parse: Parse, ran: readonly ReadStatement[]): readonly ReadStatement[] {
  const read: ReadStatement[] = [];
  let temps = ran.at(-1)?.after ?? NO_TEMPS;
  for (const [index, { from, to }] of statementsIn(tokensOf(text)).entries()) {
    const own = text.slice(from, to);
    const [statement] = statementsIn(tokensOf(own));
    if (!statement) continue;
    const form = inPlace(own, statement);
    const parsed = parse(form);
    const [first] = parsed.ok ? parsed.statements : [];
    if (!parsed.ok || !first) break;
    const guarded = guardStatement(form, parsed, temps);
    read.push({ number: index + 1, from, reads: readIn(own, form, first), made: guarded.act, before: temps, after: guarded.temps });
    temps = guarded.temps;
  }
  return read;
}

/** A problem of a statement as one of the script it stands in, from this offset on. */
export function inScript(found: Problem, number: number | undefined, from: number): Problem {
  const { position } = found.place;
  return {
    ...found,
    ...(number === undefined ? {} : { message: `Statement ${number}: ${found.message}` }),
    place: { ...found.place, position: position ? { from: position.from + from, to: position.to + from } : { from, to: from + 1 } },
  };
}

interface ReadStatement {
  readonly number: number;
  readonly from: number;
  readonly reads: readonly TableRead[];
  readonly made: ReturnType<typeof guardStatement>['act'];
  readonly before: TempNames;
  readonly after: TempNames;
}

interface TableRead {
  readonly name: string;
  readonly from: number;
  readonly to: number;
}

/** The queries of a statement, for what is found in selects. */
function queriesOf({ tree }: ParsedStatement): readonly ParsedStatement[] {
  const node = nodeOf(tree);
  if (node?.kind === 'SelectStmt') return [{ tree }];
  const query = node?.kind === 'CreateTableAsStmt' ? node.of.query : node?.kind === 'InsertStmt' ? node.of.selectStmt : undefined;
  return query === undefined ? [] : [{ tree: query }];
}

/** The tables a statement reads by their bare names, that is all but those it writes into and its own common tables. */
function readIn(own: string, form: string, { tree }: ParsedStatement): readonly TableRead[] {
  const kind = nodeOf(tree)?.kind;
  if (kind === 'TruncateStmt' || kind === 'VacuumStmt') return [];
  const offsets = new Offsets(form);
  const common = new Set([...nodesIn(tree)].flatMap(({ kind: each, of }) => (each === 'CommonTableExpr' ? [of.ctename] : [])));
  return [...nodesIn(tree)].flatMap(({ kind: each, of }): readonly TableRead[] => {
    const { relname: name, schemaname, location } = of;
    const bare = each === 'RangeVar' && (schemaname === undefined || schemaname === 'pg_temp');
    if (!bare || typeof name !== 'string' || common.has(name)) return [];
    return [{ name, ...wordAt(own, offsets.ofBytes(typeof location === 'number' ? location : 0)) }];
  });
}

/** An update or a delete that says of no row that it is not meant. */
function withoutCondition(own: string, form: string, { tree }: ParsedStatement, { from }: TextStatement): readonly Problem[] {
  const offsets = new Offsets(form);
  return [...nodesIn(tree)].flatMap(({ kind, of }): readonly Problem[] => {
    if ((kind !== 'UpdateStmt' && kind !== 'DeleteStmt') || of.whereClause !== undefined) return [];
    const range = membersOf(of.relation, 'RangeVar') ?? (of.relation as Readonly<Record<string, SyntaxTree>> | undefined);
    const at = typeof range?.location === 'number' ? offsets.ofBytes(range.location) : from;
    const does = kind === 'UpdateStmt' ? 'changes' : 'deletes';
    const message = `This ${does} all rows of ${typeof range?.relname === 'string' ? range.relname : 'its table'}: it has no condition.`;
    return [finding('change-without-condition', 'hint', message, wordAt(own, at), 'a condition, unless all rows are meant')];
  });
}

/** Temp tables nothing reads, and those that are read after they were dropped: what is to be told of some of the statements of a session. */
function ofTemps(read: readonly ReadStatement[], own: readonly ReadStatement[]): readonly Problem[] {
  return own.flatMap((statement): readonly Problem[] => {
    const at = read.indexOf(statement);
    const { made, number, from } = statement;
    const early = statement.reads.flatMap((each): readonly Problem[] => {
      const dropped = read.slice(0, at).findLast(({ before, after }) => before.has(each.name) && !after.has(each.name));
      if (statement.before.has(each.name) || !dropped) return [];
      const by = own.includes(dropped) ? `statement ${dropped.number}` : 'the script before';
      const message = `${each.name} was dropped by ${by}, and is read here.`;
      const expected = `its drop behind this statement`;
      return [inScript(finding('temp-dropped-early', 'warning', message, each, expected), number, from)];
    });
    const name =
      made.does === 'fills' ? made.table : made.does === 'makes' ? made.tables.find((each) => !statement.before.has(each)) : undefined;
    if (name === undefined || statement.before.has(name)) return early;
    const later = read.slice(at + 1);
    if (later.some(({ reads }) => reads.some((each) => each.name === name))) return early;
    const message = `Nothing reads ${name}, which is made here.`;
    return [
      ...early,
      inScript(
        finding('temp-never-read', 'warning', message, { from: 0, to: 6 }, 'a statement that reads it, or none that makes it'),
        number,
        from,
      ),
    ];
  });
}
