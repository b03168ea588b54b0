import type { Span } from '../problem';
import { openingOf } from './brackets';
import type { TextToken } from './tokens';
import { isMark, isWord, nameOf, saying } from './tokens';

/** A table a text names behind `from`, `join` or a comma of theirs, with what it is called there. */
export interface TableNamed extends Span {
  readonly schema: string | undefined;
  readonly table: string;
  /** Its alias, or its own name. */
  readonly alias: string;
}

/** Words that follow a table and are no alias. */
const NO_ALIAS =
  'where on using join left right full inner cross natural group order having window limit offset fetch union intersect except for tablesample as set returning'.split(
    ' ',
  );

/** The tables of a text, also while it is being written; names of its own common table expressions are not among them. */
export function tablesIn(all: readonly TextToken[]): readonly TableNamed[] {
  const tokens = saying(all);
  const own = ownNames(tokens);
  const found: TableNamed[] = [];
  /** How deep in parentheses, and at which depths there is a select and a list of tables goes on. */
  let depth = 0;
  const selecting = new Set<number>();
  const listing = new Set<number>();
  for (let at = 0; at < tokens.length; at++) {
    const token = tokens[at];
    // Joins stand in parentheses too.
    const opens =
      isMark(token, '(') &&
      listing.has(depth) &&
      (isWord(tokens[at - 1], 'from', 'join') || isMark(tokens[at - 1], ',') || isMark(tokens[at - 1], '('));
    if (isMark(token, '(')) depth++;
    if (opens) listing.add(depth);
    if (isMark(token, ')')) {
      listing.delete(depth);
      selecting.delete(depth--);
    } else if (isWord(token, 'select')) {
      selecting.add(depth);
      listing.delete(depth);
    } else if (isWord(token, 'values')) {
      // What follows are rows, whose commas stand between values.
      listing.delete(depth);
    } else if (isWord(token, 'join') || (isWord(token, 'from') && selecting.has(depth) && !isWord(tokens[at - 1], 'distinct')))
      listing.add(depth);
    else if (isWord(token, 'where', 'group', 'order', 'having', 'limit', 'union', 'intersect', 'except', 'window')) listing.delete(depth);
    const begins = isWord(token, 'from', 'join') || isMark(token, ',') || opens;
    const named = begins && listing.has(depth) ? tableAt(tokens, at + 1) : undefined;
    if (named && !(named.schema === undefined && own.has(named.table))) found.push(named);
  }
  return found;
}

function tableAt(tokens: readonly TextToken[], from: number): TableNamed | undefined {
  const at = isWord(tokens[from], 'only') ? from + 1 : from;
  const [first, dot, second] = [tokens[at], tokens[at + 1], tokens[at + 2]];
  const qualified = isMark(dot, '.') && nameOf(second) !== undefined;
  const last = qualified ? at + 2 : at;
  const table = nameOf(tokens[last]);
  const begin = tokens[at];
  if (table === undefined || !begin || isWord(first, 'lateral', 'select', 'rows') || isMark(tokens[last + 1], '(')) return undefined;
  const said = isWord(tokens[last + 1], 'as') ? last + 2 : last + 1;
  const alias = isWord(tokens[said], ...NO_ALIAS) ? undefined : nameOf(tokens[said]);
  return {
    schema: qualified ? nameOf(first) : undefined,
    table,
    alias: alias ?? table,
    from: begin.from,
    to: tokens[last]?.to ?? begin.to,
  };
}

/** Names a text gives to its own parts: behind `with`, before `as (`. */
function ownNames(tokens: readonly TextToken[]): ReadonlySet<string> {
  return new Set(
    tokens.flatMap((each, at) => {
      if (
        !isWord(each, 'as') ||
        !isMark(tokens[isWord(tokens[at + 1], 'materialized') ? at + 2 : isWord(tokens[at + 1], 'not') ? at + 3 : at + 1], '(')
      )
        return [];
      const before = isMark(tokens[at - 1], ')') ? openingOf(tokens, at - 1) - 1 : at - 1;
      return nameOf(tokens[before]) ?? [];
    }),
  );
}
