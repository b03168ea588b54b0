import type { Expression } from '../expressions';
import { fieldsUsed } from '../expressions';
import type { Field, FieldId, Schema } from '../fields';
import { fieldById, isNumber, repeatedSum } from '../fields';
import { listedWords } from '../joins';
import type { Problem } from '../problem';
import { warning } from '../problem';
import type { CheckedKey, CheckedValue } from './figures';
import type { Grain } from './grain';
import { tellsApart } from './grain';
import type { Arriving, CheckContext } from './step';

/** The field an expression is, where it is nothing else. */
export const plainField = (of: Expression | undefined, fields: readonly Field[]): Field | undefined =>
  of?.op === 'field' ? fields.find((each) => each.id === of.id) : undefined;

/** The key that groups by a field as it is. */
export const keyOf = (field: string, keys: readonly CheckedKey[]): string | undefined =>
  keys.find(({ expression }) => expression?.op === 'field' && expression.id === field)?.key.id;

/** The fields that decide between rows that are equal in an order: those of a key; none where no key is known. */
export const tiesOf = ({ keys }: Grain, schema: Schema): readonly Field[] =>
  (keys[0] ?? []).flatMap((id: FieldId) => fieldById(schema, id) ?? []);

/** What a figure does not say, although it can be told. */
export function figureProblems(
  step: string,
  value: CheckedValue,
  keys: readonly CheckedKey[],
  arriving: Arriving,
  context: Pick<CheckContext, 'sheet'>,
): readonly Problem[] {
  return [...sumProblems(step, value, keys, arriving.schema, context), ...tieProblems(step, value, arriving.grain)];
}

/** Where it is not the order that decides which row a figure is told by. */
function tieProblems(step: string, { value, order, ties = [] }: CheckedValue, grain: Grain): readonly Problem[] {
  const placed = value.aggregate === 'first' || value.aggregate === 'last';
  if (!placed || !order || (order.op === 'field' && tellsApart(grain, new Set([order.id])))) return [];
  const between = ties.length > 0 ? `by ${listedWords(ties.map((each) => each.name))}` : 'as they come, which may be any';
  const said = warning(
    'order-ties',
    `Rows that are equal in the order of the ${value.aggregate} are decided ${between}.`,
    { step, field: value.id },
    'an order that tells rows apart',
  );
  return [ties.length > 0 ? { ...said, severity: 'hint' } : said];
}

/** What is reckoned of a number that is no measure, or a sum over what does not add up: over nothing, several groupings, or dates. */
function sumProblems(
  step: string,
  { value, of, among }: CheckedValue,
  keys: readonly CheckedKey[],
  schema: Schema,
  { sheet = [] }: Pick<CheckContext, 'sheet'>,
): readonly Problem[] {
  const added = value.aggregate === 'sum' || value.aggregate === 'average' || value.aggregate === 'median';
  const field = added ? plainField(of, schema.fields) : undefined;
  if (!field) return [];
  const place = { step, field: value.id };
  const said = sheet.find((each) => each.field === field.id);
  const role = said?.role ?? field.role;
  if (isNumber(field.type) && role !== 'measure')
    return [
      warning(
        'measured-no-measure',
        `${field.name} is ${role === 'key' ? 'a key' : 'no measure'}, so its ${value.aggregate} says nothing.`,
        place,
        'a count, or the role of a measure for it in the field sheet',
      ),
    ];
  if (value.aggregate !== 'sum') return [];
  const addsUp = said?.addsUp ?? field.addsUp;
  if (addsUp === 'over nothing')
    return [
      warning(
        'sum-over-nothing',
        `${field.name} adds up over nothing, so its sum says nothing.`,
        place,
        'an average, the least or the greatest',
      ),
    ];
  const asks = (id: string) => keyOf(id, keys) !== undefined || (among !== undefined && fieldsUsed(among).includes(id));
  if (addsUp === 'within one grouping' && field.within !== undefined && !asks(field.within)) {
    const name = fieldById(schema, field.within)?.name ?? 'what made several rows of one';
    return [
      warning(
        'sum-over-groupings',
        `${field.name} stands once per ${name}, so this sum counts it several times.`,
        place,
        `groups by ${name}`,
      ),
    ];
  }
  if (said?.addsUp === undefined && field.oncePer !== undefined) return [repeatedSum(field.name, field.oncePer, place)];
  const last = said?.lastBy;
  const dated = last !== undefined && keys.some(({ expression }) => expression !== undefined && fieldsUsed(expression).includes(last));
  if (addsUp === 'over everything but dates, then last' && !dated)
    return [
      warning(
        'sum-over-dates',
        `${field.name} adds up over everything but dates, and this sum is over dates.`,
        place,
        'the last by its date, or groups by it',
      ),
    ];
  return [];
}
