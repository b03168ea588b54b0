import { bindValues, callOfRoutine, compileScript, postgresql } from '../src';
import type { KeptArgument, Parameter } from '../src';

/** A call as a statement: what its engine gets to read. */

const parameter = (name: string): Parameter => ({
  id: `p ${name}`,
  name,
  type: 'whole number',
  takes: 'one',
  leftBlank: 'must be filled',
  startsAs: [],
  hint: '',
});
const argument = (name: string, optional = false): KeptArgument => ({ name, sourceType: 'integer', parameter: `p ${name}`, optional });
const parameters = [parameter('season'), parameter('most')];

function called(taken: readonly KeptArgument[], values: Readonly<Record<string, readonly string[]>>): string {
  const given = Object.fromEntries(Object.entries(values).map(([name, each]) => [`p ${name}`, each]));
  const binding = bindValues(parameters, given, 0n);
  const part = callOfRoutine({ schema: 'coop', name: 'best "ones"' }, taken, parameters, binding);
  return compileScript('', [part], postgresql('numbered'), binding)[0]?.text ?? '';
}

test('each value is read once, before the function, which an engine may write out in every row', () => {
  expect(called([argument('season'), argument('most')], { season: ['2024'], most: ['3'] })).toBe(
    'select "best ""ones""".* from (select ($1)::integer as v1, ($2)::integer as v2 offset 0) as cendra_given, ' +
      'lateral "coop"."best ""ones"""("season" => cendra_given.v1, "most" => cendra_given.v2) as "best ""ones"""',
  );
});

test('without a value there is nothing to be read', () => {
  expect(called([], {})).toBe('select * from "coop"."best ""ones"""() as "best ""ones"""');
});
