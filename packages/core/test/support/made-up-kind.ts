import { z } from 'zod';
import type {
  Checked,
  Expression,
  FollowedThrough,
  Questioning,
  Relation,
  Rows,
  Step,
  StepBase,
  StepKind,
  Through,
  Value,
} from '../../src';
import {
  all,
  compare,
  compareValues,
  fieldById,
  KINDS,
  NOTHING_ARRIVES,
  problem,
  ROWS_FOLLOWED,
  sameType,
  stepBase,
  stillKnown,
} from '../../src';

/**
 * A kind that exists in the tests only, to prove what a new one needs: this file, an editor, and a line in each of the
 * two registries. Rows of its first input meet those of its second that have the same value; a first one that meets
 * none is kept. The fields of the second are minted anew.
 */
export interface MeetStep extends StepBase {
  readonly kind: 'meet';
  /** Fields of the first and the second input that have to be equal. */
  readonly by: readonly [string, string];
  /** The fields of the second input, each with the id it leaves under. */
  readonly brought: readonly { readonly id: string; readonly from: string }[];
}

interface CheckedMeet {
  readonly on: Expression | undefined;
}

const id = z.string().min(1).max(64);
const field = ({ id: of, type }: { readonly id: string; readonly type: Expression['type'] }): Expression => ({ op: 'field', type, id: of });

const carries = (step: MeetStep, slot: number, of: string) => (slot === 0 ? of : step.brought.find((each) => each.from === of)?.id);

export const meetKind: StepKind<MeetStep, CheckedMeet> = {
  kind: 'meet',
  inputs: { least: 2, most: 2, role: (slot) => (slot === 0 ? 'rows' : 'partners') },
  shape: z.strictObject({
    ...stepBase,
    kind: z.literal('meet'),
    by: z.tuple([id, id]),
    brought: z.array(z.strictObject({ id, from: id })).max(1_000),
  }) as unknown as z.ZodType<MeetStep>,
  properties: { by: ({ title }) => `changed by what ${title} meet`, brought: ({ title }) => `changed what ${title} bring` },
  lists: {},
  mints: (step) => step.brought.map((each) => each.id),
  sources: () => [],
  carries,
  origin: (step, of) => {
    const found = step.brought.find((each) => each.id === of);
    return found && { fields: [found.from], how: 'brought from a partner' };
  },
  check: (step, [left = NOTHING_ARRIVES, right = NOTHING_ARRIVES]) => {
    const [a, b] = [fieldById(left.schema, step.by[0]), fieldById(right.schema, step.by[1])];
    const brought = step.brought.flatMap((each) => {
      const from = fieldById(right.schema, each.from);
      return from ? [{ ...from, id: each.id, name: `${from.name} of ${right.grain.rows}` }] : [];
    });
    const fits = a !== undefined && b !== undefined && sameType(a.type, b.type);
    return {
      schema: { fields: [...left.schema.fields, ...brought] },
      // A row may meet several partners, so both have to be told apart.
      grain: {
        row: left.grain.row,
        rows: left.grain.rows,
        keys: left.grain.keys.flatMap((key) =>
          right.grain.keys.map((other) => [...key, ...other.flatMap((each) => carries(step, 1, each) ?? [])]),
        ),
      },
      problems: fits ? [] : [problem('field-gone', 'What they meet by is not there.', { step: step.id })],
      checked: { on: fits && b ? compare('=', field(a), field({ ...b, id: meetingId(step) })) : undefined },
    };
  },
  sentence: (_step, [left = NOTHING_ARRIVES, right = NOTHING_ARRIVES]) => `${left.grain.rows} meet ${right.grain.rows}`,
  mentions: () => [],
  unasked: () => undefined,
  relation: ({ step, checked, arriving, title }, [left, right]): Relation => {
    if (!left || !right || !checked.on) throw new RangeError('two inputs meet');
    const own = arriving[1]?.schema.fields ?? [];
    const fields = [...step.brought, { id: meetingId(step), from: step.by[1] }].flatMap((each) => {
      const from = own.find((one) => one.id === each.from);
      return from ? [{ id: each.id, name: from.name, type: from.type, expression: field(from) }] : [];
    });
    const minted: Relation = { node: 'calculate', input: right, kept: [], fields };
    return { node: 'join', name: title, left, right: minted, on: checked.on, keeps: 'left' };
  },
  rows: ({ step, arriving }, [left = [], right = []]): Rows => {
    const type = fieldById(arriving[0]?.schema ?? { fields: [] }, step.by[0])?.type ?? { kind: 'text' };
    const none = new Map<string, Value>(step.brought.map((each) => [each.id, null]));
    return left.flatMap((row) => {
      const value = row.get(step.by[0]) ?? null;
      const partners = right.filter((other) => {
        const theirs = other.get(step.by[1]) ?? null;
        return value !== null && theirs !== null && compareValues(type, value, theirs) === 0;
      });
      const brought = partners.map((other) => new Map(step.brought.map((each) => [each.id, other.get(each.from) ?? null] as const)));
      return (brought.length > 0 ? brought : [none]).map((each) => new Map([...row, ...each]));
    });
  },
  counted: { by: 'a statement of its own' },
  *followed(through: Through<MeetStep, CheckedMeet>): Questioning<FollowedThrough> {
    const known = stillKnown(through, carries);
    if (!known) return { present: 0, dropped: [], values: [] };
    const columns = through.checked.schema.fields.slice(0, 1);
    const rows = yield { relation: { node: 'filter', input: through.relation, condition: known }, columns, limit: ROWS_FOLLOWED };
    return { present: rows.length, dropped: [], values: [], known };
  },
  written: () => [],
  uses: (step) => step.by.map((each) => ({ kind: 'field', id: each })),
  renamed: (step) => step,
  fieldName: () => undefined,
  withFieldNamed: (step) => step,
  withIds: (step, idOf) => ({
    ...step,
    id: idOf(step.id),
    inputs: step.inputs.map((each) => each && idOf(each)),
    by: [idOf(step.by[0]), idOf(step.by[1])],
    brought: step.brought.map((each) => ({ id: idOf(each.id), from: idOf(each.from) })),
  }),
  withoutValues: (step) => step,
};

/** What the second side is met by, under an id of the step’s own. */
const meetingId = (step: MeetStep) => `${step.id} meets`;

/** Its line in the registry. */
Object.assign(KINDS, { meet: meetKind });

export function meetStep(of: Pick<MeetStep, 'id' | 'inputs' | 'by' | 'brought'> & Partial<MeetStep>): Step {
  const step: MeetStep = { kind: 'meet', name: '', off: false, ...of };
  // The registry of the product does not know the kind, and so neither does its union of steps.
  return step as unknown as Step;
}

export type CheckedMeetStep = Checked<MeetStep, CheckedMeet>;
export const both = all;
