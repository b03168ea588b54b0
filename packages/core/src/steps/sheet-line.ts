import { z } from 'zod';
import { expressionTextShape } from '../criteria';
import { idShape } from '../ids';
import type { ExpressionText } from '../expressions';

/** Figures that are numbers whatever they are of; texts, days and places in an order stand in no line. */
export const LINE_AGGREGATES = ['rows', 'count', 'distinct count', 'sum', 'average', 'least', 'greatest', 'median'] as const;
export type LineAggregate = (typeof LINE_AGGREGATES)[number];

/** How a line is to be read; a total is no part of a subtotal. */
export const SHEET_LINE_KINDS = ['line', 'total', 'heading', 'blank'] as const;
export type SheetLineKind = (typeof SHEET_LINE_KINDS)[number];

/** What the figures of a line are. */
export type LineFigure =
  | { readonly from: 'nothing' }
  /** Of the rows that arrive in a slot, where `among` holds; empty for all. */
  | {
      readonly from: 'rows';
      readonly slot: number;
      readonly aggregate: LineAggregate;
      /** Of what; nothing for `rows`. */
      readonly expression: ExpressionText;
      readonly among: ExpressionText;
    }
  /** Arithmetic over other lines by their wording, over parameters and typed numbers. */
  | { readonly from: 'lines'; readonly expression: ExpressionText }
  /** The sum of the lines from one to another one, both included; totals among them are left out. */
  | { readonly from: 'range'; readonly since: string; readonly until: string };

/** One line of a line sheet. */
export interface SheetLine {
  readonly id: string;
  /** A code the line is known by, such as 10 or 2.1. Nothing is calculated with it. */
  readonly place: string;
  readonly wording: string;
  /** How far in it stands, from 0. */
  readonly level: number;
  readonly kind: SheetLineKind;
  readonly figure: LineFigure;
  /** The pattern its figures are shown in, as `format_number` reads it; empty for their own digits. */
  readonly format: string;
}

/** A field of figures: among which rows, or made of other such fields. */
export interface SheetAmount {
  readonly id: string;
  readonly name: string;
  /** The id of the text its figures are shown as. */
  readonly text: string;
  /** The pattern they are shown in instead of each line's own; empty for the lines' own. */
  readonly format: string;
  readonly of:
    /** By slot, among which rows; empty for all. */
    | { readonly from: 'rows'; readonly among: readonly ExpressionText[] }
    /** Of the amounts before it, by their names. */
    | { readonly from: 'amounts'; readonly expression: ExpressionText }
    /** An amount before it in hundredths of what it is in one line: in every line, or in those that line is made of. */
    | { readonly from: 'share'; readonly amount: string; readonly line: string; readonly within: 'every line' | 'its parts' };
}

export const sheetLineShape: z.ZodType<SheetLine> = z.strictObject({
  id: idShape,
  place: z.string().max(40),
  wording: z.string().max(300),
  level: z.int().min(0).max(9),
  kind: z.enum(SHEET_LINE_KINDS),
  figure: z.discriminatedUnion('from', [
    z.strictObject({ from: z.literal('nothing') }),
    z.strictObject({
      from: z.literal('rows'),
      slot: z.int().min(0).max(9),
      aggregate: z.enum(LINE_AGGREGATES),
      expression: expressionTextShape,
      among: expressionTextShape,
    }),
    z.strictObject({ from: z.literal('lines'), expression: expressionTextShape }),
    z.strictObject({ from: z.literal('range'), since: z.union([idShape, z.literal('')]), until: z.union([idShape, z.literal('')]) }),
  ]),
  format: z.string().max(100),
});

export const sheetAmountShape: z.ZodType<SheetAmount> = z.strictObject({
  id: idShape,
  name: z.string().max(200),
  text: idShape,
  format: z.string().max(100),
  of: z.discriminatedUnion('from', [
    z.strictObject({ from: z.literal('rows'), among: z.array(expressionTextShape).max(10) }),
    z.strictObject({ from: z.literal('amounts'), expression: expressionTextShape }),
    z.strictObject({
      from: z.literal('share'),
      amount: z.union([idShape, z.literal('')]),
      line: z.union([idShape, z.literal('')]),
      within: z.enum(['every line', 'its parts']),
    }),
  ]),
});

const NOTHING: ExpressionText = { text: '', refs: [] };

/** What a line's figures are, in words. */
export function figureWords(figure: LineFigure, wordingOf: (line: string) => string): string {
  const text = (of: ExpressionText) => of.text.replace(/\s+/g, ' ').trim();
  switch (figure.from) {
    case 'nothing':
      return 'no figure';
    case 'rows': {
      const of = figure.aggregate === 'rows' ? 'rows' : `${figure.aggregate} of ${text(figure.expression) || '…'}`;
      return text(figure.among) === '' ? of : `${of} where ${text(figure.among)}`;
    }
    case 'lines':
      return text(figure.expression) || '…';
    case 'range':
      return `sum of ${wordingOf(figure.since)} to ${wordingOf(figure.until)}`;
  }
}

/** Among which rows of a slot an amount is; empty for all. */
export const amongOf = (amount: SheetAmount, slot: number): ExpressionText =>
  amount.of.from === 'rows' ? (amount.of.among[slot] ?? NOTHING) : NOTHING;

/** Under which name expressions of other lines know each line: its wording, with its place in front where two are worded alike. */
export function lineNames(lines: readonly Pick<SheetLine, 'id' | 'place' | 'wording'>[]): ReadonlyMap<string, string> {
  const times = new Map<string, number>();
  for (const { wording } of lines) times.set(wording.trim(), (times.get(wording.trim()) ?? 0) + 1);
  return new Map(
    lines.map(({ id, place, wording }) => {
      const word = wording.trim();
      return [id, word === '' ? place.trim() : (times.get(word) ?? 0) > 1 ? `${place.trim()} ${word}`.trim() : word];
    }),
  );
}
