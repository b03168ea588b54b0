import type { FieldType } from '../../fields';
import type { Parameter } from '../../parameters';
import type { Problem, Severity, Span } from '../../problem';
import type { SyntaxTree } from '../grammar';
import { Offsets } from '../grammar';
import type { TextToken } from '../tokens';

/** A table of the source as findings need it. */
export interface TableLike {
  readonly schema: string;
  readonly name: string;
  readonly columns: readonly { readonly name: string; readonly type: FieldType; readonly nullable: boolean }[];
  readonly keys: readonly { readonly columns: readonly string[] }[];
}

/** What is known around a text. Plain data, so that a worker can be given it. */
export interface TextContext {
  readonly tables: readonly TableLike[];
  readonly parameters: readonly Pick<Parameter, 'name' | 'type'>[];
  /** What parameters meet at their places, where the source said so. */
  readonly met: readonly { readonly name: string; readonly type: FieldType }[];
  /** Temp tables that stand where a statement of a script runs: they hide tables of the source of that name. */
  readonly temps?: readonly string[];
}

export const NOTHING_AROUND: TextContext = { tables: [], parameters: [], met: [] };

/** A text on its way through the findings: its words, its tree, and how places of the one are found in the other. */
export class LookedAt {
  private readonly offsets: Offsets;

  constructor(
    readonly text: string,
    /** Words that say something. */
    readonly tokens: readonly TextToken[],
    readonly tree: SyntaxTree,
    readonly context: TextContext,
    form: string,
  ) {
    this.offsets = new Offsets(form);
  }

  /** The place of a node in the text. */
  at(location: SyntaxTree | undefined): number | undefined {
    return typeof location === 'number' ? this.offsets.ofBytes(location) : 0;
  }

  /** The index of the word that begins at a place, or holds it. */
  wordAt(offset: number): number {
    let [low, high] = [0, this.tokens.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((this.tokens[middle]?.from ?? 0) <= offset) low = middle;
      else high = middle - 1;
    }
    return low;
  }

  /** The stretch from one word to another, both included. */
  span(first: number, last: number): Span {
    return { from: this.tokens[first]?.from ?? 0, to: this.tokens[last]?.to ?? this.text.length };
  }

  slice({ from, to }: Span): string {
    return this.text.slice(from, to);
  }
}

/** Something about a text that is worth a look, with what to write at its place instead where that is known. */
export function finding(
  code: string,
  severity: Exclude<Severity, 'error'>,
  message: string,
  position: Span,
  expected?: string,
  instead?: string,
): Problem {
  return {
    code,
    severity,
    message,
    place: { position },
    ...(expected === undefined ? {} : { expected }),
    ...(instead === undefined ? {} : { instead }),
  };
}
