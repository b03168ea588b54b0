import type { CheckedPair } from '../joins';
import type { Field, FieldId, Schema } from '../fields';
import { isNumber } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Grain } from './grain';
import { tellsApart } from './grain';
import type { JoinStep } from './join';
import type { Arriving } from './step';

/** Fields of the first side keep their ids, those of the second have them minted. */
export const carries = (step: Pick<JoinStep, 'fields'>, slot: number, field: FieldId): FieldId | undefined =>
  slot === 0 ? field : step.fields.find((each) => each.from === field)?.id;

/** The second input's fields under the ids and names they have behind the join; those that do not arrive any more are left out. */
export function partnerFields(step: JoinStep, right: Schema): readonly Field[] {
  const taken = new Set(step.taken);
  const arrived = new Map(right.fields.map((each) => [each.id, each]));
  return step.fields.flatMap(({ id, from, name }) => {
    const field = arrived.get(from);
    if (!field) return [];
    const within = field.within === undefined ? undefined : carries(step, 1, field.within);
    const own = { ...field, id, name, origin: { step: step.id, column: field.origin.column }, forUseOnly: !taken.has(id) };
    return [within === undefined ? own : { ...own, within }];
  });
}

/** The first input's fields, those taken of the second in their order, and the second's others for use only. */
export function joinSchema(
  step: JoinStep,
  [left, right]: readonly [Arriving, Arriving],
  partners: readonly Field[],
  many: Multiplying,
): Schema {
  const per = (row: string, yes: boolean) => (field: Field) => (yes && step.keeps.met ? repeated(field, row) : field);
  // A note that the first side's rows are rightly several is one on what is told of them.
  const own = left.schema.fields.map(per(step.role?.row ?? right.grain.row, many.left && step.accepted === ''));
  const byId = new Map(partners.map(per(left.grain.row, many.right)).map((each) => [each.id, each]));
  const taken = step.taken.flatMap((id) => byId.get(id) ?? []);
  return { fields: [...own, ...taken, ...partners.flatMap(({ id, forUseOnly }) => (forUseOnly ? (byId.get(id) ?? []) : []))] };
}

/** A number of one row in several of them. */
const repeated = (field: Field, row: string): Field =>
  isNumber(field.type) && field.oncePer === undefined ? { ...field, oncePer: row === '' ? 'partner' : row } : field;

/** Taken and used fields that are gone from the second input, and names that stand for two things. */
export function fieldProblems(step: JoinStep, left: Schema, right: Schema): readonly Problem[] {
  const arrived = new Set(right.fields.map((each) => each.id));
  const names = new Map<string, number>();
  for (const { name } of [...left.fields, ...step.fields]) names.set(name, (names.get(name) ?? 0) + 1);
  const taken = new Set(step.taken);
  return step.fields.flatMap(({ id, from, name }): readonly Problem[] => {
    const place = { step: step.id, field: id };
    if (!arrived.has(from)) {
      const gone = problem('partner-field-gone', `${name} does not arrive from the second side any more.`, place, 'the field left out');
      return [taken.has(id) ? gone : { ...gone, severity: 'hint' }];
    }
    if (name.trim() === '') return [problem('name-missing', 'A field brought in has no name.', place, 'a name of its own')];
    if ((names.get(name) ?? 0) < 2) return [];
    const clash = problem('name-taken', `There is a field ${name} already.`, place, 'a name of its own');
    // What is for use only is seldom named, and then the field that is handed on is meant first.
    return [taken.has(id) ? clash : { ...clash, severity: 'hint' }];
  });
}

/** Whether a row can meet several of the other side, as far as keys tell. */
export interface Multiplying {
  /** A row of the first input may meet several of the second. */
  readonly left: boolean;
  readonly right: boolean;
}

/** Keys tell that a row meets one at most where the pairs ask for all fields of a key of the other side. */
export function multiplying(step: JoinStep, pairs: readonly CheckedPair[], left: Arriving, right: Arriving): Multiplying {
  const plain = pairs.flatMap((each) => each.fields ?? []);
  const own = new Map(step.fields.map((each) => [each.from, each.id]));
  const rights: Grain = { ...right.grain, keys: mintedKeys(right.grain, own) };
  return {
    left: step.one === null && !tellsApart(rights, new Set(plain.map((each) => each.right))),
    right: !tellsApart(left.grain, new Set(plain.map((each) => each.left))),
  };
}

const mintedKeys = ({ keys }: Grain, own: ReadonlyMap<FieldId, FieldId>) =>
  keys.flatMap((key) => {
    const ids = key.flatMap((each) => own.get(each) ?? []);
    return ids.length === key.length ? [ids] : [];
  });

/** What one row stands for behind the join, and by what it is told from others. */
export function joinGrain(step: JoinStep, left: Arriving, right: Arriving, many: Multiplying): Grain {
  const { met, left: keepsLeft, right: keepsRight } = step.keeps;
  const own = new Map(step.fields.map((each) => [each.from, each.id]));
  const rights = mintedKeys(right.grain, own);
  const partner = step.role ?? { row: right.grain.row || '…', rows: right.grain.rows || '…' };
  if (!met && !keepsRight) return left.grain;
  if (!met && !keepsLeft) return { ...partner, keys: rights };
  // A row of either side alone has nulls in the other's key, so both together tell all rows apart.
  const both = left.grain.keys.flatMap((key) => rights.map((other) => [...key, ...other]));
  const alone = [...(many.left || keepsRight ? [] : left.grain.keys), ...(many.right || keepsLeft ? [] : rights)];
  const keys = alone.length > 0 ? alone : both;
  if (!many.left && !keepsRight) return { ...left.grain, keys };
  if (!many.right && !keepsLeft) return { ...partner, keys };
  const word = many.left || many.right ? 'and' : 'or';
  return { row: `${left.grain.row} ${word} ${partner.row}`, rows: `${left.grain.rows} ${word} ${partner.rows}`, keys };
}
