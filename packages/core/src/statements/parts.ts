/** A value in a text: the id of the parameter it is of, the source's own name of the type it is read as, and what it is. */
export interface TextValue {
  readonly parameter: string;
  readonly as: string;
  /** In wire form; several as one list. */
  readonly value: string | readonly string[] | null;
  /** Of a range. */
  readonly end?: 'from' | 'until';
}

/** A piece of a text of an analyst's: as it stands there, or a value. */
export type TextPart = string | TextValue;
