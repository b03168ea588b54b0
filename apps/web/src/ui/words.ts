/** The words Cendra uses for what it shows; each is also the hint where the word stands. */
export const WORDS = {
  alone: 'Rows that arrive at the step and that this clause by itself would keep.',
  left: 'Rows that are left when this clause and those before it hold.',
  'gives back': 'Rows that would come back if this clause alone were taken out.',
  'only this one': 'Rows that only this clause keeps, and no other.',
  null: 'Rows for which the clause has no answer, because what it asks about has no value. They are not kept.',
  'for use only': 'A field that criteria, sorting and expressions may use, and that is not handed over.',
  grain: 'What one row stands for, and the fields that tell rows apart: one row per harvest, known by its id.',
  'handed over': 'What the dataset is for its proof, its files and everybody who uses it: rows of one step, without fields for use only.',
  multiplied: 'Some rows met more than one partner, so they stand there several times, and sums count them as often.',
  'out of date': 'What is shown was read before the last change; it stays until the new rows are there.',
  'ruled through': 'A cell ruled off by a diagonal is null: there is no value, which is neither 0 nor an empty text.',
} as const;
