import type { CallResult, RowWords } from '@cendra/core';

/** A dataset of the demo that begins with what a function or procedure gives, all its fields taken. */
export interface DemoCall {
  readonly title: string;
  readonly description: string;
  readonly signature: string;
  /** Left out where its rows are simply selected from. */
  readonly result?: CallResult;
  /** What its parameters start as, in the order of its arguments. */
  readonly given: readonly string[];
  readonly called: RowWords;
}

const CLOSING = 'coop.close_season(integer, refcursor, refcursor)';

/** What the demo's steward let run besides what only reads. */
export const ADMITTED: readonly string[] = [CLOSING];

export const CALL_DATASETS: readonly DemoCall[] = [
  {
    title: 'What a member is owed for a season',
    description: 'Settlement as the cooperative keeps it: a function of the source, its two arguments asked for as parameters.',
    signature: 'coop.member_settlement(integer, integer)',
    given: ['341', '2024'],
    called: { row: 'settled delivery', rows: 'settled deliveries' },
  },
  {
    title: 'A season closed, by region',
    description: 'One of the two cursors of the procedure that closes a season. What the procedure does is taken back after each run.',
    signature: CLOSING,
    result: { of: 'cursor', number: 2, name: 'by_region' },
    given: ['2024'],
    called: { row: 'region', rows: 'regions' },
  },
];
