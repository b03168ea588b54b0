import type { Expression } from '../expressions';
import { cast, compare, not, textLiteral } from '../expressions';
import type { Field, FieldType } from '../fields';
import { fieldById, isDay, isNumber, isOpen, sameType, text, whole } from '../fields';
import { switchingOff } from '../parameters';
import { relationAfter } from '../planning';
import { ProblemError, refuse } from '../problem';
import type { CalculatedColumn, Relation } from '../sql';
import { calculatedColumn, columnsOf, valueOf } from '../sql';
import type { Questioning, Step, WireRow } from '../steps';
import { checkedOf, commonFor, kindOf } from '../steps';
import { bindDefinition, checkedStep, checkTrail } from '../trail';
import type { QuestionContext } from './question';

/** Steps that are to stand in the place of a text, and by column of the text the field it is there. */
export interface StepsInstead {
  readonly steps: readonly Step[];
  readonly result: string;
  readonly fields: readonly string[];
  /** Parameters that switch their condition off in the steps when they are blank; by id. */
  readonly off: readonly string[];
}

/** The rows of a text and those of steps in its place, held against one another by their values. */
export interface SameRows {
  readonly rows: { readonly text: string; readonly steps: string };
  /** Fields that are of another type in steps. */
  readonly retyped: readonly { readonly name: string; readonly text: FieldType; readonly steps: FieldType }[];
  /** Fields whose values are not held against one another: JSON. */
  readonly leftOut: readonly string[];
  /** Rows that stand a different number of times, the first of them. */
  readonly differing: {
    readonly fields: readonly Pick<Field, 'name' | 'type'>[];
    readonly rows: readonly DifferingRow[];
    readonly more: boolean;
  };
}

export interface DifferingRow {
  readonly values: WireRow;
  /** How many times it stands in the rows of the text, and of the steps. */
  readonly text: string;
  readonly steps: string;
}

export const DIFFERING_SHOWN = 50;

const SIDE = 'side';
const [TEXT, STEPS] = ['text', 'steps'] as const;

/** Holds the rows of a text against those of steps, all in one moment. Throws a ProblemError for what does not fit. */
export function* sameRows({ trail, binding }: QuestionContext, step: string, instead: StepsInstead): Questioning<SameRows> {
  const sql = checkedOf('sql', checkedStep(trail, step));
  if (!sql) return refuse('step-gone', 'This text is not in the dataset any more.', { step });
  const elsewhere = instead.steps.some((each) =>
    kindOf(each)
      .sources(each, () => [''])
      .some((source) => source !== sql.step.source),
  );
  if (elsewhere) return refuse('step-elsewhere', 'These steps read from another source than the text.', { step }, 'steps of its source');
  const parameters = switchingOff(trail.definition.parameters, instead.off);
  const definition = { ...trail.definition, parameters, steps: [sql.step, ...instead.steps], result: instead.result };
  const both = checkTrail(definition, trail.catalogue);
  const bindings = { [step]: binding, [instead.result]: bindDefinition(definition, binding.used, binding.now) };
  const given = checkedStep(both, instead.result);
  const wrong = both.steps.flatMap((each) => each.problems).filter((each) => each.severity === 'error');
  if (wrong.length > 0) throw new ProblemError(wrong);
  const pairs = sql.schema.fields.map((field, at) => ({ field, other: given && fieldById(given.schema, instead.fields[at] ?? '') }));
  const compared = pairs.flatMap(({ field, other }, at) => {
    if (!other) return refuse('field-gone', `The steps have no field for ${field.name}.`, { step, field: field.id });
    const type = comparedAs(field.type, other.type);
    return type ? [{ id: `value ${at}`, field, other, type }] : [];
  });
  const side = (of: 'field' | 'other', word: string, after: string): Relation => ({
    node: 'calculate',
    input: relationAfter(both, after, bindings[after] ?? binding),
    kept: [],
    fields: [
      calculatedColumn(SIDE, textLiteral(word)),
      ...compared.map((each): CalculatedColumn => calculatedColumn(each.id, valueAs(each[of], each.type))),
    ],
  });
  const sides = [side('field', TEXT, step), side('other', STEPS, instead.result)];
  const union: Relation = { node: 'union', inputs: sides, columns: columnsOf(sides[0] as Relation) };
  const isOf = (word: string) => compare('=', valueOf({ id: SIDE, type: text }), textLiteral(word));
  const counts = [TEXT, STEPS].map((word) => ({ id: `rows ${word}`, when: isOf(word) }));
  const totals: Relation = { node: 'group', input: union, keys: [], counts };
  const [[ofText, ofSteps] = []] = yield { relation: totals, columns: columnsOf(totals) };
  const keys = compared.map(({ id, type }) => calculatedColumn(id, valueOf({ id, type })));
  const told: Relation = { node: 'group', input: union, keys, counts };
  const differ = not(compare('=', ...(counts.map(({ id }) => valueOf({ id, type: whole })) as [Expression, Expression])));
  const order = keys.map((each) => ({ of: valueOf(each), descending: false, nullsFirst: false }));
  const differing: Relation = {
    node: 'limit',
    input: { node: 'filter', input: told, condition: differ },
    count: DIFFERING_SHOWN + 1,
    order,
  };
  const rows = keys.length === 0 ? [] : yield { relation: differing, columns: columnsOf(differing) };
  return {
    rows: { text: ofText ?? '0', steps: ofSteps ?? '0' },
    retyped: pairs.flatMap(({ field, other }) =>
      other && !sameType(field.type, other.type) ? [{ name: field.name, text: field.type, steps: other.type }] : [],
    ),
    leftOut: pairs.flatMap(({ field }) => (compared.some((each) => each.field === field) ? [] : [field.name])),
    differing: {
      fields: compared.map(({ field, type }) => ({ name: field.name, type })),
      rows: rows.slice(0, DIFFERING_SHOWN).map((row) => ({
        values: row.slice(0, keys.length),
        text: row[keys.length] ?? '0',
        steps: row[keys.length + 1] ?? '0',
      })),
      more: rows.length > DIFFERING_SHOWN,
    },
  };
}

const valueAs = (field: Field, type: FieldType): Expression => (sameType(field.type, type) ? valueOf(field) : cast(valueOf(field), type));

/**
 * The type two fields are held against one another in. Steps tell some numbers with fewer digits, and months as days: that is
 * told by their types, and is no other row. Undefined for what has no order.
 */
function comparedAs(of: FieldType, instead: FieldType): FieldType | undefined {
  if (of.kind === 'json' || instead.kind === 'json') return undefined;
  if (sameType(of, instead)) return of;
  if (isDay(of) && isDay(instead)) return instead;
  if (!isNumber(of) || !isNumber(instead)) return text;
  const fewer = of.kind === 'decimal' && instead.kind === 'decimal' && !isOpen(instead) && (isOpen(of) || of.scale > instead.scale);
  return fewer ? instead : (commonFor(of, instead) ?? instead);
}
