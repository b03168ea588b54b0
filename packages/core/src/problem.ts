/** Where something is wrong. Every part is optional; the screen shows the problem at the narrowest place it knows. */
export interface Place {
  readonly step?: string;
  /** The slot of an input, counted from 0. */
  readonly input?: number;
  readonly clause?: string;
  /** An item of a step's list, such as a partner of a lookup. */
  readonly item?: string;
  /** Which side of a pair: `left`, `right` or `until`. */
  readonly side?: string;
  readonly field?: string;
  readonly parameter?: string;
  /** Half-open range of UTF-16 offsets in the expression text at that place. */
  readonly position?: Span;
  /** JSON pointer into the document that was read. */
  readonly pointer?: string;
}

export interface Span {
  readonly from: number;
  readonly to: number;
}

export type Severity = 'error' | 'warning' | 'hint';

/** A typed error or finding: a stable code, one plain sentence, what was expected instead, and where. */
export interface Problem {
  readonly code: string;
  readonly severity: Severity;
  readonly message: string;
  readonly expected?: string;
  /** What to write at the position instead, where that is known: a fix one keystroke away. */
  readonly instead?: string;
  readonly place: Place;
  /** What an engine or a grammar said of it itself; shown on request. */
  readonly detail?: string;
}

export function problem(code: string, message: string, place: Place = {}, expected?: string): Problem {
  return expected === undefined ? { code, severity: 'error', message, place } : { code, severity: 'error', message, expected, place };
}

export function warning(code: string, message: string, place: Place = {}, expected?: string): Problem {
  return { ...problem(code, message, place, expected), severity: 'warning' };
}

/** The problem at a wider place as well: what it knows itself stays. */
export function withPlace(found: Problem, place: Place): Problem {
  return { ...found, place: { ...place, ...found.place } };
}

/** Carries problems across a function boundary where a value cannot be returned. */
export class ProblemError extends Error {
  constructor(readonly problems: readonly Problem[]) {
    super(problems.map((each) => each.message).join(' '));
    this.name = 'ProblemError';
  }
}

export function refuse(code: string, message: string, place: Place = {}, expected?: string): never {
  throw new ProblemError([problem(code, message, place, expected)]);
}

/** The problem as one sentence for a log or a message line. */
export function sentenceOf(each: Problem): string {
  if (each.expected === undefined) return each.message;
  return each.expected.endsWith('?') ? `${each.message} (${each.expected})` : `${each.message} Expected: ${each.expected}.`;
}
