import type { Problem, Span } from '../problem';
import type { TempChange } from './changes';

/** A temp table as it stands behind a statement. */
export interface ToldTemp {
  readonly name: string;
  readonly columns: readonly { readonly name: string; readonly type: string }[];
  /** What tells its rows apart: said by the analyst, or its primary key. */
  readonly key: readonly string[];
  readonly count: string;
  /** How the statement changed it, and its first rows then; left out where it did not touch it. */
  readonly touched?: { readonly change: TempChange; readonly rows: readonly (readonly (string | null)[])[] };
}

/** What became of one statement of a script, and the temp tables as they stood behind it. */
export interface ToldStatement extends Span {
  /** Counted from 1. */
  readonly number: number;
  readonly state: 'ran' | 'failed' | 'not run';
  readonly rows: string | null;
  readonly ms: number | null;
  readonly messages: readonly { readonly severity: string; readonly text: string }[];
  /** The first rows of one that only reads. */
  readonly first?: { readonly columns: readonly string[]; readonly rows: readonly (readonly (string | null)[])[] };
  readonly temps: readonly ToldTemp[];
  readonly problems: readonly Problem[];
}

/** A script as far as it ran. Its session is kept for a while, so that it can go on from there. */
export interface ToldScript {
  readonly statements: readonly ToldStatement[];
  /** So many of them stood in the session already, and did not run again. */
  readonly stood: number;
  /** The moment of the source they saw. */
  readonly asOf: string;
  /** When the session is ended unless something runs in it; null where it is over already. */
  readonly until: string | null;
}
