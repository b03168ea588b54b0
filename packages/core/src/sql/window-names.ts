/** The SQL standard's names of functions over other rows; every dialect has them. */
export const WINDOW_NAMES = {
  sum: 'sum',
  count: 'count',
  countRows: 'count',
  min: 'min',
  max: 'max',
  rowNumber: 'row_number',
  rank: 'rank',
  denseRank: 'dense_rank',
  lag: 'lag',
  lead: 'lead',
  first: 'first_value',
} as const;
