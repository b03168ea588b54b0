import type { Problem } from '../problem';
import { problem } from '../problem';
import type { ParsedText, SyntaxTree } from './grammar';
import { listOf, membersOf, namesOf, nodeOf, nodesIn, Offsets, wordAt } from './grammar';

/** What a text may do as far as its tree tells, and what its source has to be asked besides. */
export interface Guarded {
  readonly problems: readonly Problem[];
  readonly asks: AskedOfSource;
}

/** Names of which a source knows whether what they stand for only reads. */
export interface AskedOfSource {
  readonly functions: readonly string[];
  /** Behind a dot: a column, or a function called as if it were one. */
  readonly attributes: readonly string[];
  readonly operators: readonly string[];
}

/** Kinds of nodes that reading a table, computing and comparing are made of. What is not among them is refused by name. */
const ALLOWED = new Set(
  `SelectStmt ResTarget ColumnRef String Integer Float Boolean BitString A_Star A_Const A_Expr A_ArrayExpr A_Indirection A_Indices
   BoolExpr NullTest BooleanTest SubLink CaseExpr CaseWhen CoalesceExpr MinMaxExpr TypeCast TypeName FuncCall NamedArgExpr RowExpr
   ParamRef SQLValueFunction CollateClause SortBy WindowDef RangeVar Alias RangeSubselect RangeFunction RangeTableSample RangeTableFunc
   RangeTableFuncCol JoinExpr WithClause CommonTableExpr CTESearchClause CTECycleClause GroupingSet GroupingFunc XmlExpr XmlSerialize
   List ColumnDef JsonObjectConstructor JsonArrayConstructor JsonArrayQueryConstructor JsonObjectAgg JsonArrayAgg JsonAggConstructor
   JsonKeyValue JsonValueExpr JsonOutput JsonReturning JsonFormat JsonIsPredicate JsonFuncExpr JsonBehavior JsonArgument JsonTable
   JsonTablePathSpec JsonTableColumn JsonParseExpr JsonScalarExpr JsonSerializeExpr`.split(/\s+/),
);

/** What a statement of a kind does, for those that are met most. */
const DOES: Readonly<Record<string, string>> = {
  InsertStmt: 'writes rows (insert)',
  UpdateStmt: 'changes rows (update)',
  DeleteStmt: 'deletes rows (delete)',
  MergeStmt: 'changes rows (merge)',
  TruncateStmt: 'empties a table (truncate)',
  CreateStmt: 'makes a table (create table)',
  CreateTableAsStmt: 'makes a table (create table … as)',
  ViewStmt: 'makes a view (create view)',
  IndexStmt: 'makes an index (create index)',
  DropStmt: 'drops something (drop)',
  AlterTableStmt: 'changes a table (alter)',
  CreateFunctionStmt: 'makes a function',
  DoStmt: 'runs a block of statements (do)',
  CopyStmt: 'moves rows from or to a file (copy)',
  CallStmt: 'calls a procedure (call)',
  TransactionStmt: 'begins or ends a transaction',
  VariableSetStmt: 'changes a setting (set)',
  VariableShowStmt: 'shows a setting (show)',
  GrantStmt: 'gives rights (grant)',
  GrantRoleStmt: 'gives rights (grant)',
  ListenStmt: 'listens (listen)',
  NotifyStmt: 'notifies (notify)',
  UnlistenStmt: 'stops listening (unlisten)',
  LockStmt: 'locks a table (lock)',
  PrepareStmt: 'prepares a statement (prepare)',
  ExecuteStmt: 'executes a prepared statement (execute)',
  DeallocateStmt: 'drops a prepared statement (deallocate)',
  DeclareCursorStmt: 'opens a cursor (declare)',
  FetchStmt: 'reads a cursor (fetch)',
  ClosePortalStmt: 'closes a cursor (close)',
  DiscardStmt: 'discards what the session has (discard)',
  VacuumStmt: 'tidies a table (vacuum or analyze)',
  ExplainStmt: 'explains a statement (explain)',
  LoadStmt: 'loads a library (load)',
  CheckPointStmt: 'forces a checkpoint',
  ReindexStmt: 'makes indexes anew (reindex)',
  ClusterStmt: 'reorders a table (cluster)',
  RefreshMatViewStmt: 'refreshes a view',
  LockingClause: 'locks the rows it reads (for update or for share)',
  SetToDefault: 'uses a column’s default',
  CurrentOfExpr: 'reads where a cursor stands',
};

/** Functions that reach beyond the rows they are given, whatever a catalogue says of them. */
const REACHING =
  /^(set_config|pg_sleep.*|pg_read_.*|pg_ls_.*|pg_stat_file|pg_file_.*|lo_.*|loread|lowrite|dblink.*|pg_(try_)?advisory_.*|pg_terminate_backend|pg_cancel_backend|pg_reload_conf|pg_rotate_.*|pg_notify|nextval|setval|query_to_xml.*|cursor_to_xml.*|table_to_xml.*|schema_to_xml.*|database_to_xml.*|ts_stat|pg_switch_wal|pg_create_.*|pg_drop_.*|pg_logical_.*|pg_replication_.*|pg_export_snapshot|pg_promote|pg_backup_.*|pg_start_backup|pg_stop_backup|pg_log_.*|pg_stat_reset.*|pg_import_system_collations|currtid.*|binary_upgrade_.*)$/;

/** Looks at a parsed text. Offsets in problems are those of `text`. */
export function guard(text: string, parsed: ParsedText & { readonly ok: true }): Guarded {
  const refusing = new Refusing(text);
  const [first, second] = parsed.statements;
  if (!first) refusing.refuse('text-empty', 'There is no statement in this text.', undefined, 'a select');
  if (second) refusing.refuse('statements-several', 'There are several statements in this text.', undefined, 'one statement');
  const root = nodeOf(first?.tree);
  if (!first || root?.kind === 'SelectStmt') return { asks: reached(first?.tree ?? null, ALLOWED, refusing), problems: refusing.problems };
  refusing.refuse(
    'text-not-reading',
    `This statement ${doneBy(root?.kind) ?? 'does not only read'}.`,
    undefined,
    'a statement that only reads: select, values or with',
  );
  return { problems: refusing.problems, asks: { functions: [], attributes: [], operators: [] } };
}

/** What a statement of a kind does, in words that follow “this statement”; undefined of one that is hardly met. */
export const doneBy = (kind: string | undefined): string | undefined => (kind === undefined ? undefined : DOES[kind]);

/** Kinds of nodes a text that only reads is made of. */
export { ALLOWED as READING };

/** What is refused in a text, each at its place. */
export class Refusing {
  readonly problems: Problem[] = [];
  private readonly offsets: Offsets;

  constructor(private readonly text: string) {
    this.offsets = new Offsets(text);
  }

  refuse(code: string, message: string, location: SyntaxTree | undefined, expected: string): void {
    const position = typeof location === 'number' ? { position: wordAt(this.text, this.offsets.ofBytes(location)) } : {};
    this.problems.push(problem(code, message, position, expected));
  }
}

/** Refuses what is not among the kinds of nodes that are allowed or reaches beyond rows, and gives what a source has to be asked. */
export function reached(tree: SyntaxTree, allowed: ReadonlySet<string>, refusing: Refusing): AskedOfSource {
  const asks = { functions: new Set<string>(), attributes: new Set<string>(), operators: new Set<string>() };
  for (const { kind, of } of nodesIn(tree)) {
    if (!allowed.has(kind)) {
      refusing.refuse(
        'text-not-reading',
        `This text ${DOES[kind] ?? `holds something that does more than read (${kind})`}.`,
        of.location,
        'a statement that only reads',
      );
      break;
    }
    if (holdsInto(of))
      refusing.refuse(
        'text-not-reading',
        'This text makes a table of its rows (select … into).',
        undefined,
        'a select without into, or “create temp table … as” in a script',
      );
    if (kind === 'FuncCall') {
      const name = namesOf(of.funcname).at(-1) ?? '';
      asks.functions.add(name);
      if (REACHING.test(name.toLowerCase()))
        refusing.refuse(
          'function-reaches',
          `The function ${name} reaches beyond reading rows.`,
          of.location,
          'a function that only computes',
        );
      if (name === 'current_setting' && !readsOtherSetting(of.args))
        refusing.refuse(
          'setting-own',
          'This reads a setting that may be one of Cendra’s own.',
          of.location,
          'the name of another setting, as a text',
        );
    }
    if (kind === 'ColumnRef')
      namesOf(of.fields)
        .slice(1)
        .forEach((each) => asks.attributes.add(each));
    if (kind === 'A_Indirection') namesOf(of.indirection).forEach((each) => asks.attributes.add(each));
    if (kind === 'A_Expr' || kind === 'SubLink')
      namesOf(kind === 'A_Expr' ? of.name : of.operName)
        .slice(-1)
        .forEach((each) => asks.operators.add(each));
  }
  for (const name of asks.attributes)
    if (REACHING.test(name.toLowerCase()))
      refusing.refuse('function-reaches', `The function ${name} reaches beyond reading rows.`, undefined, 'a function that only computes');
  return { functions: [...asks.functions], attributes: [...asks.attributes], operators: [...asks.operators] };
}

/** A member that stands in a node without its kind's name, and so is not met as a node of its own. */
const holdsInto = (of: Readonly<Record<string, SyntaxTree>>) =>
  Object.values(of).some((each) => typeof each === 'object' && each !== null && 'intoClause' in each) || 'intoClause' in of;

function readsOtherSetting(args: SyntaxTree | undefined): boolean {
  const [first] = listOf(args);
  const constant = membersOf(first, 'A_Const')?.sval;
  const name = typeof constant === 'object' && constant !== null && 'sval' in constant ? constant.sval : undefined;
  return typeof name === 'string' && !/^\s*"?cendra/i.test(name);
}
