import type {
  CatalogueColumn,
  CatalogueKey,
  CatalogueRelation,
  DescribedField,
  Dialect,
  FieldType,
  Problem,
  CallResult,
  RoutineOut,
  ScriptAct,
  ScriptStatement,
  SessionCall,
  Statement,
} from '@cendra/core';

/** As whom it signed in, and which server answered, with its version. */
export type TestAnswer =
  | { readonly ok: true; readonly user: string; readonly server: string; readonly ms: number; readonly tables: number }
  | { readonly ok: false; readonly problem: Problem; readonly detail?: string };

export interface CatalogueTable {
  readonly schema: string;
  readonly name: string;
  readonly view: boolean;
  /** Estimated rows; null where the source has none. */
  readonly estimate: number | null;
  readonly comment: string;
}

/** A column as the catalogue has it, its source type with domains resolved to what they are made of, and for the reader. */
export interface DescribedColumn extends CatalogueColumn {
  /** As declared, for the reader: the domain's or enum's name. */
  readonly declaredType: string;
  readonly primaryKey: boolean;
  readonly foreignKey: boolean;
  readonly unique: boolean;
  readonly comment: string;
}

export interface DescribedTable {
  readonly schema: string;
  readonly name: string;
  readonly columns: readonly DescribedColumn[];
  readonly keys: readonly CatalogueKey[];
  readonly relations: readonly CatalogueRelation[];
  readonly estimate: number | null;
}

/** A column of a statement's rows, and the table's column it comes from as it is, where it does. */
export interface TextColumn extends DescribedField {
  readonly from?: { readonly schema: string; readonly table: string; readonly column: string; readonly nullable: boolean };
}

/** What a source says of a statement it does not run. */
export interface DescribedText {
  readonly columns: readonly TextColumn[];
  /** By the number of its place: the source's name of the type it has there, and what that is to us. */
  readonly parameters: readonly { readonly sourceType: string; readonly type: FieldType; readonly several: boolean }[];
  /** Of a script, what each of its statements does. */
  readonly acts?: readonly ScriptAct[];
}

/** One thing a call gave: its first rows as texts, and how many there are, where all were counted. */
export interface CalledResult {
  readonly result: CallResult;
  readonly columns: readonly TextColumn[];
  readonly rows: readonly (readonly (string | null)[])[];
  readonly count: string | null;
}

/** A call that was made once, and taken back. */
export interface Called {
  readonly results: readonly CalledResult[];
  readonly messages: readonly SaidMessage[];
  readonly ms: number;
}

/** What a routine takes. */
export interface RoutineArgument {
  /** Empty where it has none and is known by its place. */
  readonly name: string;
  readonly sourceType: string;
  /** Of one value. */
  readonly type: FieldType;
  /** It takes a list of them. */
  readonly several: boolean;
  /** All further values belong to it. */
  readonly collects: boolean;
  /** What it is without a value, in the source's words; null where it needs one. */
  readonly startsAs: string | null;
}

/** A function or procedure of a source, as its catalogue has it. */
export interface CatalogueRoutine {
  readonly schema: string;
  readonly name: string;
  /** Schema, name and types of what it takes: what tells it from all others. */
  readonly signature: string;
  readonly kind: 'function' | 'procedure';
  /** What it gives, in the source's words. */
  readonly gives: string;
  readonly arguments: readonly RoutineArgument[];
  readonly outs: readonly RoutineOut[];
  /** Declared as one that may change something. */
  readonly mayWrite: boolean;
  readonly withOwnersRights: boolean;
  /** It gives rows without saying which columns they have. */
  readonly columnsUnsaid: boolean;
  /** It gives names of cursors rather than rows. */
  readonly cursors: boolean;
  readonly comment: string;
  /** Other when its text is another. */
  readonly body: string;
}

/** The text of a view or routine. */
export interface RoutineText {
  readonly text: string;
}

/** Signatures of routines a steward let run although they are declared as such that may write. */
export type Admitted = readonly string[];

export interface CopyProgress {
  readonly rows: number;
  readonly bytes: number;
}

export interface CopyOutcome extends CopyProgress {
  /** Set when a limit ended it early. */
  readonly cut: 'rows' | 'bytes' | undefined;
}

export interface CopyLimits {
  readonly rows: number;
  readonly bytes: number;
}

/** Rows of a statement that arrived one after the other: CSV without a header, null is nothing, empty text is "". */
export interface Segment {
  readonly file: string;
  /** The number of its first row among all of the statement's, counted from 0. */
  readonly first: number;
  readonly rows: number;
  readonly bytes: number;
  /** Longest row in bytes, which the reader of the file has to allow for. */
  readonly longestRow: number;
}

/** Where segments go as they arrive. */
export interface SegmentSink {
  /** A file of the run's folder for the next one. */
  next(): string;
  /** Takes one that is whole, at times two at once. The source is read on meanwhile; rejecting ends the statement. */
  take(segment: Segment): Promise<void>;
}

/** What a source says beside its answers: `notice`, `warning`. */
export interface SaidMessage {
  readonly severity: string;
  readonly text: string;
}

/** A statement of a script that ran. */
export interface RanStatement {
  /** How many rows it gave or changed; null where it did neither. */
  readonly rows: string | null;
  /** Of a select: the first rows. */
  readonly first?: { readonly columns: readonly string[]; readonly rows: readonly (readonly (string | null)[])[] };
  readonly ms: number;
  /** What the source said meanwhile. */
  readonly messages: readonly SaidMessage[];
  /** The temp tables it made or changed. */
  readonly changed: readonly string[];
}

export interface TempTable {
  readonly name: string;
  readonly columns: readonly { readonly name: string; readonly type: string }[];
  /** Its primary key, where it has one. */
  readonly key: readonly string[];
}

/** Two statements that give the same rows, however often each, have the same of these. */
export interface RowsDigest {
  readonly rows: string;
  readonly sum: string;
}

/** Rows of a temp table as texts, and how many there are in all. */
export interface TempRows {
  readonly count: string;
  readonly rows: readonly (readonly (string | null)[])[];
}

/**
 * A session of a source in which a script runs, statement by statement: at one moment, and nothing of it stays. Statements
 * may make, fill and change temp tables; a statement that would change anything else is refused before it runs. All
 * methods reject with a ProblemException at the statement's place; `close` never rejects.
 */
export interface SourceScript {
  readonly asOf: Date;
  /** Looks at the statements that are to run next: one that would change more than temp tables is refused, and none has run. */
  look(statements: readonly ScriptStatement[]): Promise<void>;
  /** Runs one more statement. Where it fails, what stood before it still stands. */
  run(statement: ScriptStatement): Promise<RanStatement>;
  /** Makes a call and looks at what it gives; all of it is taken back. */
  call(statement: ScriptStatement & { readonly call: SessionCall }): Promise<Called>;
  /** How many rows the statement that comes next gives, and a sum over what they say, in whatever order they come. */
  digest(statement: ScriptStatement): Promise<RowsDigest>;
  /** Everything as it stood when so many statements had run. */
  backTo(statements: number): Promise<void>;
  tables(): Promise<readonly TempTable[]>;
  /** So many rows of a temp table at most, in the order of columns. */
  rowsOf(table: TempTable, order: readonly string[], most: number): Promise<TempRows>;
  /** Stops what is running, at the source. */
  cancel(): Promise<void>;
  close(): Promise<void>;
}

/** A statement of a script as it is described: `$n` in the place of values, some of them of a type that is said. */
export interface ScriptToDescribe extends Omit<ScriptStatement, 'values' | 'looked'> {
  readonly types: readonly (string | undefined)[];
}

/**
 * One moment of a source: a read-only transaction in which every statement sees the same data.
 * All methods reject with a ProblemException; `close` never rejects and leaves nothing running.
 */
export interface SourceSnapshot {
  /** When the moment was fixed, by the source's clock. */
  readonly asOf: Date;
  /** Streams a statement's rows into segments. What they hold counts only once this has resolved. */
  copyTo(sink: SegmentSink, statement: Statement, limits: CopyLimits, onProgress: (progress: CopyProgress) => void): Promise<CopyOutcome>;
  /**
   * Another connection at the same moment, for work beside this one or with temp tables of its own; closed by itself. A
   * script runs in it first.
   */
  session(script?: readonly ScriptStatement[], signal?: AbortSignal): Promise<SourceSnapshot>;
  /** A few rows as the source's text. */
  rows(statement: Statement): Promise<readonly (readonly (string | null)[])[]>;
  /** How many rows the source expects of a statement, which it does not run; undefined where it expects nothing. */
  estimate(statement: Statement): Promise<bigint | undefined>;
  /** What the source said since this was asked last, of a script too that ran in it. */
  said(): readonly SaidMessage[];
  /** Stops what is running, at the source; the running call rejects with code `run-cancelled`. */
  cancel(): Promise<void>;
  close(): Promise<void>;
}

/** Another user of a source than the one that reads. */
export interface SignIn {
  readonly user: string;
  readonly secret: string;
}

/**
 * Everything Cendra asks of a kind of source. A new kind is one folder that gives this and passes the contract suite.
 * What its settings are is its own matter: elsewhere they are kept, compared and handed back.
 */
export interface Connector<Settings extends object = object> {
  readonly kind: string;
  readonly dialect: Dialect;
  /** Its settings as they come over the wire: each with its decorators, by which they are checked and described. */
  readonly settings: new () => Settings;
  /** Who reads what there: results are shared only where this is the same. */
  loginOf(settings: Settings): string;
  /** Where the secret is sent, and for whom: it goes nowhere else than it was given for. */
  secretGoesTo(settings: Settings): string;
  /** Whether these settings name the database at an address, such as Cendra's own, which is no source. */
  isAt(settings: Settings, address: string): boolean;
  /**
   * How Cendra's own database is asked for one text. Whatever it is called by, and whatever was typed: no connection to it
   * is used from then on. Kinds that cannot reach it need not have this.
   */
  guardOwn?(ask: (text: string) => Promise<string | undefined>): void;
  test(settings: Settings, secret: string): Promise<TestAnswer>;
  tables(settings: Settings, secret: string): Promise<readonly CatalogueTable[]>;
  /** Undefined when there is no such table or it may not be read. */
  describe(settings: Settings, secret: string, schema: string, table: string): Promise<DescribedTable | undefined>;
  /**
   * Fields and types of a statement an analyst wrote, which is not run. Values are `$1`, `$2` …, each of a type of the
   * source's or of what it meets. Rejects with a ProblemException whose positions are those of `text`, also for a
   * statement that would do more than read.
   */
  describeText(
    settings: Settings,
    secret: string,
    text: string,
    types: readonly (string | undefined)[],
    admitted: Admitted,
  ): Promise<DescribedText>;
  /**
   * Fields of a script's last statement, and what the parameters of all of them meet, in their order. Its temp tables are
   * made without rows, and taken back. Rejects with a ProblemException whose positions are those of the script.
   */
  describeScript(settings: Settings, secret: string, script: readonly ScriptToDescribe[], admitted: Admitted): Promise<DescribedText>;
  /** A session for a script. */
  openScript(settings: Settings, secret: string, signal?: AbortSignal, admitted?: Admitted): Promise<SourceScript>;
  routines(settings: Settings, secret: string): Promise<readonly CatalogueRoutine[]>;
  /** Makes a function by another sign-in, in the place of one of a signature; all of it or nothing. */
  keepRoutine(settings: Settings, as: SignIn, replaced: string | undefined, statement: string): Promise<void>;
  /** Undefined where there is none of that signature. */
  routineText(settings: Settings, secret: string, signature: string): Promise<RoutineText | undefined>;
  /** The query of a view; undefined where there is none. */
  viewText(settings: Settings, secret: string, schema: string, view: string): Promise<RoutineText | undefined>;
  /** Ends within the time a source may be silent, and at once when the signal says that nobody waits any more. */
  open(settings: Settings, secret: string, signal?: AbortSignal, admitted?: Admitted): Promise<SourceSnapshot>;
}
