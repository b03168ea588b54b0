import type { Field } from '../fields';
import { freeName, isDay } from '../fields';
import { linkReferences, writtenName } from '../expressions';
import type { Parameter } from '../parameters';
import type { LineSheetStep } from './line-sheet';
import type { SheetAmount } from './sheet-line';
import type { Arriving } from './step';

export const PERIODS = ['week', 'month', 'quarter', 'year', 'season'] as const;
export type Period = (typeof PERIODS)[number];

/** Figures of one period, of the one before it, and their change. */
export interface PeriodsAsked {
  readonly period: Period;
  /** The day by which rows of each input lie in a period; by slot, undefined where an input is not told so. */
  readonly days: readonly (Field | undefined)[];
  /** The parameter whose day says which period is meant; left out: today. */
  readonly asOf?: Parameter;
}

/**
 * Three fields of figures: among the rows of a period, among those of the one before, and the first without the second.
 * Periods are those of the dataset's calendar, from their first day to their last.
 */
export function periodAmounts(
  mint: () => string,
  step: Pick<LineSheetStep, 'names' | 'amounts'>,
  arriving: readonly Arriving[],
  parameters: readonly Parameter[],
  { period, days, asOf }: PeriodsAsked,
): readonly SheetAmount[] {
  const taken = new Set([...Object.values(step.names), ...step.amounts].map((each) => each.name));
  const named = (wanted: string) => {
    const name = freeName(wanted, taken);
    taken.add(name);
    return name;
  };
  const reference = asOf ? writtenName('parameter', asOf.name) : 'current_date';
  const before = `start_of_${period}(${reference}) - interval '1' day`;
  const among = (of: string) =>
    arriving.map(({ schema }, slot) => {
      const day = days[slot];
      if (!day) return { text: '', refs: [] };
      const name = writtenName('field', day.name);
      const own = isDay(day.type) && day.type.kind !== 'date' ? `cast(${name} as date)` : name;
      return linkReferences(`${own} between start_of_${period}(${of}) and end_of_${period}(${of})`, { schema, parameters });
    });
  const amount = (name: string, of: SheetAmount['of']): SheetAmount => ({ id: mint(), name, text: mint(), format: '', of });
  const now = amount(named(`this_${period}`), { from: 'rows', among: among(reference) });
  const last = amount(named(`last_${period}`), { from: 'rows', among: among(before) });
  const [one, other] = [writtenName('field', now.name), writtenName('field', last.name)];
  const refs = [
    { kind: 'field' as const, id: now.id, from: 0, to: one.length },
    { kind: 'field' as const, id: last.id, from: one.length + 3, to: one.length + 3 + other.length },
  ];
  return [now, last, amount(named('change'), { from: 'amounts', expression: { text: `${one} - ${other}`, refs } })];
}
