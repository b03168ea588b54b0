import type { CalculatedField, CalculateStep, Definition } from '../../src';
import { definition, ending, table } from './harvests';

/** A calculated field of this text. */
export const field = (name: string, text: string, id = `f-${name}`): CalculatedField => ({ id, name, expression: { text, refs: [] } });
/** A step of calculated fields behind the harvests. */
export const calculate = (fields: readonly CalculatedField[], input = 't', id = 'k'): CalculateStep => ({
  id,
  kind: 'calculate',
  name: '',
  off: false,
  inputs: [input],
  fields,
});
/** Harvests with calculated fields. */
export const withFields = (...fields: readonly CalculatedField[]): Definition =>
  ending({ ...definition, steps: [table, calculate(fields)] });
