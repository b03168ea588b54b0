/** One limit: its value here, and what the steward reads about it. */
interface Limit {
  readonly value: number;
  readonly unit: 'rows' | 'bytes' | 'runs' | 'ms' | 'values' | 'hours' | 'threads' | 'characters' | 'texts';
  readonly says: string;
}

const limit = (value: number, unit: Limit['unit'], says: string): Limit => ({ value, unit, says });

/** Every limit on what comes from outside, in one place. The steward sees this list. */
const DEFAULTS = {
  resultRows: limit(20_000_000, 'rows', 'rows of one stored result; further rows are cut off and the result says so'),
  resultBytes: limit(4_000_000_000, 'bytes', 'bytes read from sources for one result; further rows are cut off'),
  storeBytes: limit(20_000_000_000, 'bytes', 'all stored results together; the oldest go first'),
  resultAge: limit(24, 'hours', 'age at which a stored result is removed'),
  headRows: limit(1_000, 'rows', 'rows of a head run'),
  headCharacters: limit(10_000, 'characters', 'of one text in a head run; a full run has all of it'),
  headBytes: limit(64_000_000, 'bytes', 'read from sources for one head run; further rows are cut off'),
  rowBytes: limit(64_000_000, 'bytes', 'one row as a source sends it; a longer one ends the run'),
  runsPerSource: limit(4, 'runs', 'runs at once on one source; further ones wait'),
  runsPerPerson: limit(3, 'runs', 'runs at once of one person; further ones wait'),
  answersPerSource: limit(6, 'runs', 'questions answered at once by one source; further ones wait'),
  answersPerPerson: limit(4, 'runs', 'questions of one person answered at once; further ones wait'),
  waitingPerPerson: limit(20, 'runs', 'runs of one person that may wait'),
  statementTime: limit(300_000, 'ms', 'time of one statement in a source'),
  tempBytes: limit(4_000_000_000, 'bytes', 'temp tables of one script in its source'),
  scriptSession: limit(300_000, 'ms', 'time the session of a script is kept after its last statement, so that it can go on'),
  scriptSessions: limit(8, 'runs', 'sessions of scripts kept at once; the oldest is ended for a new one'),
  scriptRows: limit(2_000, 'rows', 'rows of a temp table compared from one statement to the next; a larger one is counted'),
  idleTime: limit(20_000, 'ms', 'time a source may send nothing at all while connecting or describing'),
  connectTime: limit(8_000, 'ms', 'time to connect to a source'),
  ownTime: limit(30_000, 'ms', 'time of one statement in Cendra’s own database, and to connect to it'),
  answerBytes: limit(64_000_000, 'bytes', 'one answer of a source that is no row of a run, such as a row of its catalogue'),
  requestBytes: limit(4_000_000, 'bytes', 'size of one request, and so of edits and value lists'),
  definitionBytes: limit(2_000_000, 'bytes', 'size of one dataset definition'),
  definitionsKept: limit(64_000_000, 'bytes', 'definitions kept in the server’s memory while they are in use'),
  listValues: limit(100_000, 'values', 'values of one parameter'),
  pageRows: limit(500, 'rows', 'rows of one page of a result'),
  cellBytes: limit(1_000, 'bytes', 'text of a cell sent with a page; the rest comes on demand'),
  pageBytes: limit(8_000_000, 'bytes', 'one page of a result; it then has fewer rows than were asked for, and more are asked for'),
  pagesKept: limit(32_000_000, 'bytes', 'pages kept in the server’s memory while they are read'),
  cellDemandBytes: limit(16_000_000, 'bytes', 'text of one cell sent on demand'),
  engineMemory: limit(4_000_000_000, 'bytes', 'memory of all instances of the combine engine together; a further run waits'),
  instanceMemory: limit(500_000_000, 'bytes', 'memory of one instance of the combine engine: of a run, of pages, of downloads'),
  engineLookTime: limit(60_000, 'ms', 'time of one page, search or profile in the combine engine'),
  engineWorkTime: limit(1_800_000, 'ms', 'time of one piece of work in the combine engine: landing, combining, sorting, writing a file'),
  engineSilence: limit(15_000, 'ms', 'time the combine engine may not answer at all; then it is started again'),
  engineSpill: limit(20_000_000_000, 'bytes', 'disk the combine engine may spill to'),
  filesAtOnce: limit(4, 'runs', 'downloads prepared at once'),
  paperLines: limit(100_000, 'rows', 'lines of a proof as a paper: PDF, HTML, XML or Markdown'),
  unreadTime: limit(60_000, 'ms', 'time the reader of a download may take nothing; then it is broken off'),
  planningTime: limit(10_000, 'ms', 'time to check a dataset or to plan one piece of work for it'),
  planningThreads: limit(2, 'threads', 'threads in which large datasets are checked and planned'),
  proofsAtOnce: limit(4, 'runs', 'proofs made at once; further ones wait'),
  proofsPerPerson: limit(2, 'runs', 'proofs of one person made at once; further ones wait'),
  sortsKept: limit(6, 'runs', 'sorted views of one result kept beside it; the oldest go first'),
  emptyGroups: limit(2_000_000, 'rows', 'groups without rows that a proof may come to; more are refused before they are made'),
  proofsKept: limit(6, 'runs', 'proofs of one result kept beside it; the oldest go first'),
  keptTexts: limit(2_000, 'texts', 'SQL texts on the shelf'),
  deletedKept: limit(720, 'hours', 'time a deleted dataset can be taken back'),
} as const satisfies Record<string, Limit>;

type LimitName = keyof typeof DEFAULTS;

/** The limits in force: the defaults above, or what the setting `CENDRA_LIMIT_<name>` says. */
export const LIMITS = Object.fromEntries(
  Object.entries(DEFAULTS).map(([name, each]) => {
    const given = Number(process.env[`CENDRA_LIMIT_${name}`]);
    return [name, given > 0 ? { ...each, value: given } : each];
  }),
) as Readonly<Record<LimitName, Limit>>;
