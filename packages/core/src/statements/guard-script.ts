import type { ParsedText, SyntaxTree, TreeNode } from './grammar';
import { listOf, membersOf, namesOf, nodeOf, nodesIn } from './grammar';
import type { AskedOfSource, Guarded } from './guard';
import { doneBy, READING, reached, Refusing } from './guard';

/** What stands in a session under the names a script gave: only that may be changed. */
export type TempNames = ReadonlyMap<string, 'table' | 'view' | 'index'>;

export const NO_TEMPS: TempNames = new Map();

/** What a statement of a script does, and so how it is run. */
export type ScriptAct =
  /** It gives rows and changes nothing. */
  | { readonly does: 'reads' }
  /** It changes rows of temp tables. */
  | { readonly does: 'writes'; readonly tables: readonly string[] }
  /** It makes a temp table of a query's rows; `there` already, nothing happens. */
  | { readonly does: 'fills'; readonly table: string; readonly there: boolean }
  /** It makes, changes or drops temp objects, and computes nothing while it does. */
  | { readonly does: 'makes'; readonly tables: readonly string[] }
  /** It drops what is not there, and may. */
  | { readonly does: 'nothing' };

/** One statement of a script, looked at: what it does, and what stands in the session behind it. */
export interface GuardedStatement extends Guarded {
  readonly act: ScriptAct;
  readonly temps: TempNames;
}

/** Statements that change rows. */
const WRITING = new Set(['InsertStmt', 'UpdateStmt', 'DeleteStmt', 'MergeStmt']);

const IN_SCRIPT = new Set([
  ...READING,
  ...WRITING,
  ...'MergeWhenClause SetToDefault MultiAssignRef CreateStmt CreateTableAsStmt Constraint TableLikeClause ViewStmt IndexStmt IndexElem'.split(
    ' ',
  ),
  ...'DropStmt TruncateStmt VacuumStmt VacuumRelation AlterTableStmt AlterTableCmd'.split(' '),
]);

const ALTERS = new Set(['AT_AddColumn', 'AT_DropColumn', 'AT_SetNotNull', 'AT_DropNotNull']);
const DROPS: Readonly<Record<string, 'table' | 'view' | 'index'>> = {
  OBJECT_TABLE: 'table',
  OBJECT_VIEW: 'view',
  OBJECT_INDEX: 'index',
};

const NOTHING_ASKED: AskedOfSource = { functions: [], attributes: [], operators: [] };
const TEMP_MADE = 'a temp table this script has made before';

/**
 * Looks at one statement of a script, before which `temps` stand in its session. It may read, and make, fill, change
 * and drop temp objects; anything else is refused. Offsets in problems are those of `text`.
 */
export function guardStatement(text: string, parsed: ParsedText & { readonly ok: true }, temps: TempNames): GuardedStatement {
  const refusing = new Refusing(text);
  const [first, second] = parsed.statements;
  const root = nodeOf(first?.tree);
  if (!root) refusing.refuse('text-empty', 'There is no statement here.', undefined, 'a statement');
  if (second) refusing.refuse('statements-several', 'There are several statements here.', undefined, 'one statement');
  if (!root || second) return { problems: refusing.problems, asks: NOTHING_ASKED, act: { does: 'reads' }, temps };
  const looking = new Looking(refusing, temps);
  if (root.kind !== 'SelectStmt' && !IN_SCRIPT.has(root.kind)) {
    const does = doneBy(root.kind) ?? 'does more than a script may';
    refusing.refuse('script-refuses', `This statement ${does}.`, undefined, 'statements that read, or make and change temp tables');
    return { problems: refusing.problems, asks: NOTHING_ASKED, act: { does: 'reads' }, temps };
  }
  const asks = reached(first?.tree ?? null, IN_SCRIPT, refusing);
  const written = looking.written(first?.tree ?? null);
  const { act, after } = looking.actOf(root, written);
  return { problems: refusing.problems, asks, act, temps: after };
}

class Looking {
  constructor(
    private readonly refusing: Refusing,
    private readonly temps: TempNames,
  ) {}

  /** The tables whose rows change, wherever in the statement that is said. */
  written(tree: SyntaxTree): readonly string[] {
    const tables = new Set<string>();
    for (const { kind, of } of nodesIn(tree)) {
      if (!WRITING.has(kind)) continue;
      const name = this.target(of.relation, 'writes into');
      if (name !== undefined) tables.add(name);
    }
    return [...tables];
  }

  actOf({ kind, of }: TreeNode, written: readonly string[]): { readonly act: ScriptAct; readonly after: TempNames } {
    const same = (act: ScriptAct) => ({ act, after: this.temps });
    switch (kind) {
      case 'CreateTableAsStmt':
        return this.filled(of);
      case 'CreateStmt':
        return this.created(of);
      case 'ViewStmt':
        return this.made(of.view, 'view', 'a view');
      case 'IndexStmt':
        return this.indexed(of);
      case 'DropStmt':
        return this.dropped(of);
      case 'TruncateStmt':
        return same({ does: 'makes', tables: this.named(of.relations, 'empties') });
      case 'VacuumStmt':
        if (of.is_vacuumcmd === true || listOf(of.rels).length === 0)
          this.refusing.refuse(
            'script-refuses',
            'This statement tidies tables (vacuum).',
            undefined,
            '“analyze” with the name of a temp table',
          );
        return same({
          does: 'makes',
          tables: this.named(listOf(of.rels).map((each) => membersOf(each, 'VacuumRelation')?.relation ?? null)),
        });
      case 'AlterTableStmt':
        return same({ does: 'makes', tables: this.altered(of) });
      default:
        return same(written.length > 0 ? { does: 'writes', tables: written } : { does: 'reads' });
    }
  }

  private filled(of: TreeNode['of']): { readonly act: ScriptAct; readonly after: TempNames } {
    const into = plain(of.into);
    const name = this.fresh(into?.rel, 'a table');
    if (nodeOf(of.query)?.kind !== 'SelectStmt' || of.objtype !== 'OBJECT_TABLE')
      this.refusing.refuse('script-refuses', 'This makes a table of something that is no query.', undefined, 'a select behind “as”');
    const there = this.temps.has(name) && of.if_not_exists === true;
    return { act: { does: 'fills', table: name, there }, after: new Map([...this.temps, [name, 'table']]) };
  }

  private created(of: TreeNode['of']): { readonly act: ScriptAct; readonly after: TempNames } {
    for (const element of listOf(of.tableElts)) {
      const like = membersOf(element, 'TableLikeClause');
      if (like && like.options !== undefined && like.options !== 0)
        this.refusing.refuse(
          'script-refuses',
          'This takes more over from a table than its columns.',
          undefined,
          '“like” without “including”',
        );
    }
    if (of.inhRelations !== undefined || of.partspec !== undefined || of.ofTypename !== undefined)
      this.refusing.refuse('script-refuses', 'This table is a part of another one.', undefined, 'a temp table of its own');
    if ([...nodesIn(listOf(of.tableElts))].some((each) => each.kind === 'Constraint' && each.of.contype === 'CONSTR_FOREIGN'))
      this.refusing.refuse('script-refuses', 'A temp table does not refer to other tables.', undefined, 'columns without “references”');
    return this.made(of.relation, 'table', 'a table');
  }

  private made(range: SyntaxTree | undefined, what: 'table' | 'view', words: string) {
    const name = this.fresh(range, words);
    const act: ScriptAct = { does: 'makes', tables: what === 'table' ? [name] : [] };
    return { act, after: new Map([...this.temps, [name, what]]) };
  }

  private indexed(of: TreeNode['of']): { readonly act: ScriptAct; readonly after: TempNames } {
    const table = this.target(of.relation, 'makes an index of');
    const name = typeof of.idxname === 'string' ? of.idxname : undefined;
    if (of.concurrent === true)
      this.refusing.refuse('script-refuses', 'An index is not made beside other work here.', undefined, 'an index without “concurrently”');
    const after = name === undefined ? this.temps : new Map([...this.temps, [name, 'index' as const]]);
    return { act: { does: 'makes', tables: table === undefined ? [] : [table] }, after };
  }

  private dropped(of: TreeNode['of']): { readonly act: ScriptAct; readonly after: TempNames } {
    const what = typeof of.removeType === 'string' ? DROPS[of.removeType] : undefined;
    const names = listOf(of.objects).map((each) => namesOf(membersOf(each, 'List')?.items));
    if (!what) {
      this.refusing.refuse('script-refuses', 'This drops something that is no temp object.', undefined, 'a temp table, view or index');
      return { act: { does: 'nothing' }, after: this.temps };
    }
    const after = new Map(this.temps);
    let gone = 0;
    for (const name of names) {
      const own = name.at(-1) ?? '';
      const temp = (name.length === 1 || name[0] === 'pg_temp') && this.temps.get(own) === what;
      if (temp) {
        after.delete(own);
        gone++;
      } else if (of.missing_ok !== true)
        this.refusing.refuse(
          'script-writes-outside',
          `This drops ${name.join('.')}, which this script has not made.`,
          undefined,
          TEMP_MADE,
        );
    }
    if (gone > 0 && gone < names.length)
      this.refusing.refuse(
        'script-writes-outside',
        `This drops ${names.map((each) => each.join('.')).join(', ')}, of which some are not this script’s.`,
        undefined,
        'a drop of its own for each',
      );
    return { act: gone > 0 ? { does: 'makes', tables: [] } : { does: 'nothing' }, after };
  }

  private altered(of: TreeNode['of']): readonly string[] {
    const table = this.target(of.relation, 'changes');
    for (const cmd of listOf(of.cmds)) {
      const subtype = membersOf(cmd, 'AlterTableCmd')?.subtype;
      if (typeof subtype !== 'string' || !ALTERS.has(subtype))
        this.refusing.refuse(
          'script-refuses',
          'This changes more of a temp table than its columns.',
          undefined,
          '“add column” or “drop column”',
        );
    }
    return table === undefined ? [] : [table];
  }

  private named(ranges: SyntaxTree | undefined, does = 'looks through'): readonly string[] {
    return listOf(ranges).flatMap((each) => this.target(membersOf(each, 'RangeVar') ?? each, does) ?? []);
  }

  /** The temp table a statement changes; anything else is refused. */
  private target(range: SyntaxTree | undefined, does: string): string | undefined {
    const members = plain(range);
    const name = members?.relname;
    if (typeof name !== 'string') return undefined;
    const schema = members?.schemaname;
    const own = (schema === undefined || schema === 'pg_temp') && this.temps.get(name) === 'table';
    if (own) return name;
    const full = typeof schema === 'string' ? `${schema}.${name}` : name;
    const temp = this.temps.get(name);
    const message = temp
      ? `This statement ${does} ${full}, which is ${temp === 'view' ? 'a view' : 'an index'}.`
      : `This statement ${does} ${full}, which is no temp table of this script.`;
    this.refusing.refuse('script-writes-outside', message, members?.location, TEMP_MADE);
    return undefined;
  }

  /** The name of something that is made; what would stay behind the session is refused. */
  private fresh(range: SyntaxTree | undefined, words: string): string {
    const members = plain(range);
    const name = typeof members?.relname === 'string' ? members.relname : '';
    const schema = members?.schemaname;
    if ((members?.relpersistence !== 't' && schema !== 'pg_temp') || (schema !== undefined && schema !== 'pg_temp'))
      this.refusing.refuse(
        'script-makes-lasting',
        `This makes ${words} that would stay.`,
        members?.location,
        `“create temp …”, which is gone when the run ends`,
      );
    if (name.toLowerCase().startsWith('pg_'))
      this.refusing.refuse(
        'script-refuses',
        `${name} is a name the server keeps for itself.`,
        members?.location,
        'a name that does not begin with pg_',
      );
    return name;
  }
}

/** A node that stands under its member's name, without its kind's. */
function plain(tree: SyntaxTree | undefined): TreeNode['of'] | undefined {
  const isPlain = typeof tree === 'object' && tree !== null && !Array.isArray(tree);
  return isPlain ? (membersOf(tree, 'RangeVar') ?? (tree as TreeNode['of'])) : undefined;
}
