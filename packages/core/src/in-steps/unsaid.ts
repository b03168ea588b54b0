/** Why a part of a text has no step that says it. Thrown where that shows, and caught where the part can stay SQL. */
export class Unsaid extends Error {
  /** The part of its select it stands in, where that part could stay SQL by itself. */
  part?: SelectPart;

  constructor(
    /** In words that follow the part: “`regexp_replace` has no counterpart in expressions.” */
    readonly because: string,
    /** Where in the tree, in bytes of UTF-8; left out where the tree does not say. */
    readonly location?: number,
  ) {
    super(because);
  }
}

/** A part of a select that is computed of single rows: what it reads, or by its place a condition, a target, a key of its groups. */
export type SelectPart = 'from' | `${'where' | 'target' | 'group'} ${number}`;

/** What a part comes to; what is thrown in it is said to be of it. */
export function partly<T>(part: SelectPart | undefined, make: () => T): T {
  try {
    return make();
  } catch (error) {
    if (error instanceof Unsaid) {
      if (part === undefined) delete error.part;
      else error.part = part;
    }
    throw error;
  }
}

export const unsaid = (because: string, location?: unknown): never => {
  throw new Unsaid(because, typeof location === 'number' && location >= 0 ? location : undefined);
};
