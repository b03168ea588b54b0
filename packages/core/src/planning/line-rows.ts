import { blanksAsNull, disjunction, fieldsUsed } from '../expressions';
import type { Binding } from '../parameters';
import { refuse } from '../problem';
import type { CheckedLine, CheckedOf, ChosenRows } from '../steps';
import { checkedOf, NOTHING_ARRIVES, rowsOfLine } from '../steps';
import type { CheckedTrail } from '../trail';
import { checkedStep } from '../trail';
import { relationArriving } from './relations';

/** The rows a line of a sheet was made of, as they arrive: of a calculated one, those of the lines it comes from. */
export function lineRows(trail: CheckedTrail, stepId: string, lineId: string, binding: Binding): ChosenRows {
  const sheet = checkedOf('line sheet', checkedStep(trail, stepId));
  if (!sheet) return refuse('inspection-unsuited', 'Only a line sheet has lines.', { step: stepId });
  if (sheet.blocked) return refuse('step-blocked', 'This step cannot run before its errors are mended.', { step: stepId });
  const behind = toldBehind(sheet, lineId, new Set());
  const [first] = behind;
  if (!first) return refuse('line-without-rows', 'No rows stand behind this line.', { step: stepId, field: lineId });
  const slot = first.slot ?? 0;
  const conditions = behind.flatMap((each) => ((each.slot ?? 0) === slot ? [rowsOfLine(sheet, each)] : []));
  const columns = (sheet.arriving[slot] ?? NOTHING_ARRIVES).schema.fields.filter((each) => !each.forUseOnly);
  const input = relationArriving(trail, stepId, binding, slot);
  if (conditions.includes(undefined)) return { relation: input, columns };
  const some = disjunction(conditions.flatMap((each) => (each ? [blanksAsNull(each, binding.blanks)] : [])));
  return { relation: { node: 'filter', input, condition: some }, columns };
}

/** The lines told of rows that a line is made of, itself among them. */
function toldBehind(sheet: CheckedOf<'line sheet'>, lineId: string, seen: Set<string>): readonly CheckedLine[] {
  const found = sheet.checked.lines.find((each) => each.line.id === lineId);
  if (!found || seen.has(lineId)) return [];
  seen.add(lineId);
  if (found.told) return [found];
  return found.calculated ? fieldsUsed(found.calculated).flatMap((id) => toldBehind(sheet, id, seen)) : [];
}
