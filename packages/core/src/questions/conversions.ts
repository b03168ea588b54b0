import { all, isNull, not } from '../expressions';
import type { Field, FieldType } from '../fields';
import { sameType } from '../fields';
import { relationArriving } from '../planning';
import { refuse } from '../problem';
import type { Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';
import type { Questioning } from '../steps';
import { checkedOf, converted } from '../steps';
import { checkedStep } from '../trail';
import type { QuestionContext } from './question';

/** A type fields of different types could have in common, and how many values of each could not become it. */
export interface Conversion {
  readonly type: FieldType;
  /** By input of a union, or by line of an unpivot. */
  readonly lost: readonly string[];
}

interface Given {
  readonly slot: number;
  readonly field: Field | undefined;
}

const TEXT: FieldType = { kind: 'text' };

/** What would make the fields that stand in one place one type, and what each would lose: counted on all rows. */
export function* conversions(context: QuestionContext, step: string, item: string): Questioning<readonly Conversion[]> {
  const given = givenAt(context, step, item);
  const types = candidates(given.flatMap(({ field }) => field?.type ?? []));
  const lost = types.map((): string[] => []);
  for (const { slot, field } of given) {
    if (!field) {
      lost.forEach((each) => each.push('0'));
      continue;
    }
    const input = relationArriving(context.trail, step, context.binding, slot);
    const value = valueOf(field);
    const counts: Relation = {
      node: 'group',
      input,
      keys: [],
      counts: types.map((type, at) => ({
        id: `lost ${at}`,
        when: all(not(isNull(value)), isNull(sameType(type, field.type) ? value : converted(field, type))),
      })),
    };
    const [row = []] = yield { relation: counts, columns: columnsOf(counts) };
    lost.forEach((each, at) => each.push(row[at] ?? '0'));
  }
  return types.map((type, at) => ({ type, lost: lost[at] ?? [] }));
}

/** The fields of a stacked field by input, or of a value field by line. */
function givenAt({ trail }: QuestionContext, step: string, item: string): readonly Given[] {
  const checked = checkedStep(trail, step);
  const find = (slot: number, id: string | null | undefined) => checked?.arriving[slot]?.schema.fields.find((each) => each.id === id);
  const union = checkedOf('union', checked)?.step;
  const stacked = union?.fields.find((each) => each.id === item);
  if (union && stacked) return union.inputs.map((_input, slot) => ({ slot, field: find(slot, stacked.from[slot]) }));
  const unpivot = checkedOf('unpivot', checked)?.step;
  const at = unpivot?.values.findIndex((each) => each.id === item) ?? -1;
  if (unpivot && at >= 0) return unpivot.lines.map((line) => ({ slot: 0, field: find(0, line.from[at]) }));
  return refuse('field-gone', 'Nothing stands together under this field any more.', { step, field: item });
}

/** The types there are, each once, and text, which any value can become. */
function candidates(types: readonly FieldType[]): readonly FieldType[] {
  // Nothing else becomes an instant: a text or a date-time does not say where its clock stands.
  const all = [...types.filter(({ kind }) => kind !== 'json' && kind !== 'instant'), TEXT];
  return all.filter((type, at) => all.findIndex((each) => sameType(each, type)) === at);
}
