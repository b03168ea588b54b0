import type { FieldType } from '../fields';
import type { Questioning, WireRow } from '../steps';
import { readValue, writeValue } from '../values';

/**
 * The same question, whose rows come to it in wire form: sources have words of their own for yes and no, and give zero
 * a sign. What fits no type stays as the source has it.
 */
export function* inWireForm<A>(question: Questioning<A>): Questioning<A> {
  let next = question.next();
  while (!next.done) {
    const wanted = next.value;
    const rows = yield wanted;
    const types = wanted.expected ? [] : wanted.columns.map(({ type }) => (OWN_WORDS.has(type.kind) ? type : undefined));
    next = question.next(types.some((each) => each !== undefined) ? rows.map((row) => rewritten(row, types)) : rows);
  }
  return next.value;
}

const OWN_WORDS: ReadonlySet<FieldType['kind']> = new Set(['yesno', 'float']);

const rewritten = (row: WireRow, types: readonly (FieldType | undefined)[]): WireRow =>
  row.map((cell, at) => {
    const type = types[at];
    return type === undefined || cell === null ? cell : wireForm(type, cell);
  });

/** One way to write each value: `5` and `5.00` are one number. What is no value of the type stays as it is. */
export function wireForm(type: FieldType, source: string): string {
  const read = readValue(type, source);
  return read.ok && read.value !== null ? writeValue(type, read.value) : source;
}
