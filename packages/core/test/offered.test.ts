import fc from 'fast-check';
import type { Clause, FieldType, Schema, Value as AnyValue } from '../src';
import {
  bindValues,
  checkClause,
  date,
  datetime,
  decimal,
  evaluate,
  float,
  instant,
  openDecimal,
  operatorsFor,
  readValue,
  rowOf,
  text,
  whole,
  writeValue,
} from '../src';
import { NOW } from './support/rows';

/** A value that is offered can be taken: as it is written, the clause finds just the rows that hold it. */

type Value = Exclude<AnyValue, null>;

const day = fc.integer({ min: -719_162, max: 2_932_896 });
const moment = fc.bigInt({ min: -62_135_596_800_000_000n, max: 253_402_300_799_999_999n });
const decimals = (precision: number, scale: number) =>
  fc.bigInt({ min: -(10n ** BigInt(precision)) + 1n, max: 10n ** BigInt(precision) - 1n }).map((digits) => ({ digits, scale }));
const VALUES: readonly (readonly [FieldType, fc.Arbitrary<Value>])[] = [
  [text, fc.string({ unit: 'grapheme' }).filter((each) => !each.includes('\u0000'))],
  [whole, fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map((digits) => ({ digits, scale: 0 }))],
  [decimal(8, 2), decimals(8, 2)],
  [decimal(38, 37), decimals(38, 37)],
  [decimal(38, 0), decimals(38, 0)],
  [openDecimal, fc.oneof(decimals(60, 2), decimals(20, 18), decimals(45, 44))],
  [float, fc.double({ noNaN: true, noDefaultInfinity: true })],
  [date, day],
  [datetime, moment],
  [instant, moment],
  [{ kind: 'instant', zone: 'Europe/Berlin' }, moment],
];

test.each(VALUES)('of %j', (type, values) => {
  const schema: Schema = {
    fields: [{ id: 'f', name: 'f', type, role: 'attribute', origin: { step: 's', column: 'f' }, forUseOnly: false }],
  };
  const equal = operatorsFor(type).find(({ word }) => ['is', 'equals', 'on'].includes(word))?.word ?? '';
  const binding = bindValues([], {}, NOW);
  let others = 0;
  fc.assert(
    fc.property(values, values, (value, other) => {
      const wire = writeValue(type, value);
      const clause: Clause = {
        id: 'c',
        kind: 'condition',
        off: false,
        field: 'f',
        operator: equal,
        operands: [{ kind: 'value', text: wire }],
        andNulls: false,
      };
      const checked = checkClause(clause, { schema, parameters: [] });
      expect([wire, checked.problems]).toEqual([wire, []]);
      const holds = (held: Value) => checked.expression && evaluate(checked.expression, rowOf(new Map([['f', held]]), binding));
      if (text === type && wire === '') return;
      expect([wire, holds(value)]).toEqual([wire, true]);
      const differs = writeValue(type, other) !== wire;
      if (!differs) return;
      others++;
      expect([wire, writeValue(type, other), holds(other)]).toEqual([wire, writeValue(type, other), false]);
      expect(readValue(type, wire)).toEqual({ ok: true, value });
    }),
  );
  expect(others).toBeGreaterThan(20);
});
