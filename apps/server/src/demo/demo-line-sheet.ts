import type { Arriving, LineAggregate, LineFigure, LineSheetStep, Parameter, RowWords, SheetAmount, SheetLine } from '@cendra/core';
import { lineSheetStep, linkReferences, NOTHING_ARRIVES } from '@cendra/core';
import { mintId } from '../datasets';

/** Lines told of the rows before and of another table. */
export interface DemoLineSheet {
  readonly kind: 'line sheet';
  readonly table: string;
  readonly called: RowWords;
  readonly taken: readonly string[];
  readonly amounts: readonly DemoAmount[];
  readonly lines: readonly DemoLine[];
}

interface DemoAmount {
  readonly name: string;
  readonly format?: string;
  readonly of:
    | { readonly among: readonly [first: string, second: string] }
    | { readonly expression: string }
    | { readonly share: readonly [amount: string, line: string] };
}

export interface DemoLine {
  readonly place: string;
  readonly wording: string;
  readonly kind?: SheetLine['kind'];
  readonly level?: number;
  readonly format?: string;
  readonly figure?:
    | { readonly slot?: 1; readonly aggregate: LineAggregate; readonly of: string; readonly among?: string }
    | { readonly expression: string }
    | { readonly from: string; readonly until: string };
}

/** The sheet as a step over two inputs, with ids for every name in it. */
export function sheetOf(
  sheet: DemoLineSheet,
  inputs: readonly [string, string],
  arriving: readonly Arriving[],
  parameters: readonly Parameter[],
): LineSheetStep {
  const lines = sheet.lines.map((each) => ({ ...each, id: mintId() }));
  const amounts = sheet.amounts.map((each) => ({ ...each, id: mintId() }));
  const lineOf = (wording: string) => lines.find((each) => each.wording === wording)?.id ?? '';
  const named = (items: readonly { readonly id: string; readonly name: string }[]) => ({ schema: { fields: items } as never, parameters });
  const worded = named(lines.map(({ id, wording }) => ({ id, name: wording })));
  const told = (slot: number, text: string) => linkReferences(text, { schema: (arriving[slot] ?? NOTHING_ARRIVES).schema, parameters });
  const figureOf = (of: DemoLine['figure']): LineFigure => {
    if (!of) return { from: 'nothing' };
    if ('expression' in of) return { from: 'lines', expression: linkReferences(of.expression, worded) };
    if ('from' in of) return { from: 'range', since: lineOf(of.from), until: lineOf(of.until) };
    const slot = of.slot ?? 0;
    return { from: 'rows', slot, aggregate: of.aggregate, expression: told(slot, of.of), among: told(slot, of.among ?? '') };
  };
  const amountOf = (of: DemoAmount['of']): SheetAmount['of'] => {
    if ('among' in of) return { from: 'rows', among: of.among.map((each, slot) => told(slot, each)) };
    if ('expression' in of) return { from: 'amounts', expression: linkReferences(of.expression, named(amounts)) };
    return {
      from: 'share',
      amount: amounts.find((each) => each.name === of.share[0])?.id ?? '',
      line: lineOf(of.share[1]),
      within: 'its parts',
    };
  };
  return {
    ...lineSheetStep(mintId, inputs[0]),
    inputs,
    texts: true,
    amounts: amounts.map(({ id, name, format = '', of }) => ({ id, name, format, text: mintId(), of: amountOf(of) })),
    lines: lines.map(({ id, place, wording, kind = 'line', level = 0, format = '', figure }) => ({
      id,
      place,
      wording,
      kind,
      level,
      format,
      figure: figureOf(figure),
    })),
  };
}
