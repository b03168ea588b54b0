import type { Field, FieldId, FieldType, Role, Schema } from '../fields';
import type { AddsUp, Aggregate } from './aggregates';
import { aggregatesOf } from './aggregates';
import type { Calendar } from '../values';
import { COMMON_CALENDAR } from '../values';
import type { SheetEntry } from './entry';
import type { ReadFormat } from './format';
import { formatIn } from './format';

/** A field as it is handed over: what the trail gives and the field sheet says. */
export interface SheetField {
  readonly id: FieldId;
  readonly field: Field;
  readonly type: FieldType;
  readonly name: string;
  readonly label: string;
  readonly description: string;
  readonly role: Role;
  readonly addsUp: AddsUp;
  readonly lastBy: FieldId | undefined;
  /** The field that says the grouping, for a measure that adds up within one. */
  readonly within: FieldId | undefined;
  /** Of what one row stands for each where a join may have made several of one, unless the sheet says over what it adds up. */
  readonly oncePer: string | undefined;
  /** What it may be totalled by. */
  readonly aggregates: readonly Aggregate[];
  readonly format: ReadFormat | undefined;
  readonly forUseOnly: boolean;
  readonly link: string | undefined;
}

/** Every field of the schema by the sheet, in its order; fields the order does not name come behind, as they are. */
export function sheetFields(
  schema: Schema,
  sheet: readonly SheetEntry[],
  order: readonly FieldId[],
  calendar: Calendar = COMMON_CALENDAR,
): readonly SheetField[] {
  const entries = new Map(sheet.map((each) => [each.field, each]));
  const place = new Map(order.map((id, index) => [id, index]));
  const at = ({ id }: Field) => place.get(id) ?? order.length;
  return schema.fields.toSorted((a, b) => at(a) - at(b)).map((field) => sheetField(field, entries.get(field.id), calendar));
}

function sheetField(field: Field, entry: SheetEntry | undefined, calendar: Calendar): SheetField {
  const role = entry?.role ?? field.role;
  const addsUp = entry?.addsUp ?? field.addsUp ?? 'over everything';
  const allowed = aggregatesOf(field.type, role, addsUp);
  return {
    id: field.id,
    field,
    type: field.type,
    name: entry?.name ?? field.name,
    label: entry?.label ?? labelFor(entry?.name ?? field.name),
    description: entry?.description ?? '',
    role,
    addsUp,
    lastBy: entry?.lastBy,
    within: addsUp === 'within one grouping' ? field.within : undefined,
    oncePer: entry?.addsUp === undefined ? field.oncePer : undefined,
    aggregates: entry?.aggregates ? allowed.filter((each) => entry.aggregates?.includes(each)) : allowed,
    format: entry?.format && formatIn(calendar, entry.format),
    forUseOnly: field.forUseOnly || entry?.forUseOnly === true,
    link: entry?.link,
  };
}

/** Words made of a name: picked_on reads Picked on. */
function labelFor(name: string): string {
  const words = name.replaceAll('_', ' ').trim();
  return words === '' ? name : words.charAt(0).toUpperCase() + words.slice(1);
}
