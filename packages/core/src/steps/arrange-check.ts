import { checkExpression } from '../expressions';
import type { Expression } from '../expressions';
import type { Field, FieldId } from '../fields';
import { fieldById, typeWord } from '../fields';
import { listedWords } from '../joins';
import type { Problem } from '../problem';
import { problem, warning } from '../problem';
import type { Value } from '../values';
import type { ArrangeStep } from './arrangement';
import { isKept } from './arrangement';
import type { Grain } from './grain';
import { tellsApart } from './grain';
import type { Arriving, CheckContext } from './step';

export interface SortField {
  readonly field: Field;
  readonly descending: boolean;
  readonly nullsFirst: boolean;
}

export interface CheckedArrange {
  readonly sort: readonly SortField[];
  /** Fields of a key, which decide between rows that are equal in the order; none where no key is known. */
  readonly ties: readonly Field[];
  readonly distinct: readonly Field[] | undefined;
  readonly count: Expression | undefined;
  readonly per: readonly Field[];
  /** The fields that go on, in their order, those for use only among them. */
  readonly fields: readonly Field[];
  /** The fields rows are decided by, as they are told of a dropped one. */
  readonly shown: readonly Field[];
}

/** Sorting, counting and choosing as typed parts, what goes on, and what is wrong. */
export function checkArrange(step: ArrangeStep, { schema, grain }: Arriving, context: CheckContext) {
  const problems: Problem[] = [];
  const at = (field: string) => ({ step: step.id, field });
  const found = (id: FieldId, item: string, what: string): readonly Field[] => {
    const field = fieldById(schema, id);
    if (!field) problems.push(problem('field-gone', `A field ${what} does not arrive any more.`, at(item), 'another field'));
    return field ? [field] : [];
  };
  const sort = step.sort.flatMap((each): readonly SortField[] => {
    if (each.field === '') {
      problems.push(problem('sort-missing', 'Nothing says yet what rows are sorted by here.', at(each.id), 'a field'));
      return [];
    }
    return found(each.field, each.id, 'rows are sorted by').flatMap((field) => {
      if (field.type.kind === 'json') {
        problems.push(problem('sort-unsuited', 'Rows are not sorted by JSON.', at(each.id), 'a field of another type'));
        return [];
      }
      return [{ field, descending: each.descending, nullsFirst: each.nullsFirst }];
    });
  });
  const per = (step.first?.per ?? []).flatMap((id) => found(id, id, 'the first rows are counted by'));
  const distinct = step.distinct?.flatMap((id) => found(id, id, 'rows are told apart by'));
  if (step.distinct?.length === 0)
    problems.push(problem('distinct-empty', 'Nothing says by which fields rows are alike.', { step: step.id }, 'at least one field'));
  const count = step.first ? checkedCount(step, context, problems) : undefined;
  const listed = step.fields?.flatMap(({ field: id, forUseOnly }) =>
    found(id, id, 'that is handed on').map((field) => ({ ...field, forUseOnly: field.forUseOnly || forUseOnly })),
  );
  const sorted = listed && schema.fields.filter(({ id }) => isKept(step, id) && !step.fields?.some((each) => each.field === id));
  const fields = listed ? [...listed, ...(sorted ?? []).map((field) => ({ ...field, forUseOnly: true }))] : schema.fields;
  if (listed && !listed.some((each) => !each.forUseOnly))
    problems.push(problem('nothing-handed', 'No field is handed on.', { step: step.id }, 'at least one field'));
  const decides = new Set([...sort.map((each) => each.field.id), ...(distinct ?? []).map((each) => each.id)]);
  const ties = (grain.keys[0] ?? []).flatMap((id) => (decides.has(id) ? [] : (fieldById(schema, id) ?? [])));
  problems.push(...orderHints(step, grain, decides, ties));
  const shown = [...new Set([...sort.map((each) => each.field), ...per, ...(distinct ?? [])])].slice(0, 6);
  return {
    // One row for each combination is what several rows of one are made one again by.
    schema: { fields: distinct ? fields.map(({ oncePer: _several, ...field }) => field) : fields },
    grain: grainOf(step, grain, distinct),
    problems,
    checked: { sort, ties, distinct, count, per, fields, shown },
  };
}

function checkedCount(step: ArrangeStep, context: CheckContext, problems: Problem[]): Expression | undefined {
  const { count = { text: '', refs: [] } } = step.first ?? {};
  const place = { step: step.id, field: 'first' };
  if (count.text.trim() === '') {
    problems.push(
      problem('count-missing', 'Nothing says yet how many rows are kept.', place, 'a whole number, or a parameter such as :most'),
    );
    return undefined;
  }
  const read = checkExpression(count.text, { ...context, schema: { fields: [] }, refs: count.refs });
  problems.push(...read.problems.map((each) => ({ ...each, place: { ...each.place, ...place } })));
  const { expression } = read;
  if (!expression) return undefined;
  if (expression.type.kind !== 'whole') {
    problems.push(
      problem('count-unsuited', `How many rows are kept is a ${typeWord(expression.type)} here.`, place, 'a whole number from 1 on'),
    );
    return undefined;
  }
  if (expression.op === 'literal' && isBelowOne(expression.value)) {
    problems.push(problem('count-below-one', 'The first rows are at least one.', place, 'a whole number from 1 on'));
    return undefined;
  }
  return expression;
}

/** Whether a number of rows is none. */
export const isBelowOne = (value: Value): boolean => value !== null && typeof value === 'object' && value.digits < 1n;

/** Where it is not the order that decides which rows are kept. */
function orderHints(step: ArrangeStep, grain: Grain, decides: ReadonlySet<FieldId>, ties: readonly Field[]): readonly Problem[] {
  if (!step.first && !step.distinct) return [];
  const place = { step: step.id };
  if (step.first && step.sort.length === 0)
    return [warning('first-unordered', 'The first rows of no order are any rows.', place, 'a field to sort by')];
  if (step.first?.ties === true && !step.distinct) return [];
  if (tellsApart(grain, decides)) return [];
  const between = ties.length > 0 ? `in the order of ${listedWords(ties.map((each) => each.name))}` : 'as they come, which may be any';
  const said = { code: 'order-ties', message: `Rows that are equal in the order follow one another ${between}.` };
  return [{ ...warning(said.code, said.message, place, 'a field that tells rows apart'), severity: ties.length > 0 ? 'hint' : 'warning' }];
}

function grainOf(step: ArrangeStep, grain: Grain, distinct: readonly Field[] | undefined): Grain {
  const keys = grain.keys.filter((key) => key.every((id) => isKept(step, id)));
  const single = step.first?.count.text.trim() === '1' && !step.first.ties && step.first.per.length > 0 ? [step.first.per] : [];
  const told = [...keys, ...single].filter((key) => key.every((id) => isKept(step, id)));
  if (!distinct || distinct.length === 0) return { ...grain, keys: told };
  const row = listedWords(distinct.map((each) => each.name));
  const own = distinct.map((each) => each.id);
  return { row, rows: `rows per ${row}`, keys: [...(own.every((id) => isKept(step, id)) ? [own] : []), ...told] };
}
