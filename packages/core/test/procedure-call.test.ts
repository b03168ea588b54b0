import {
  bindValues,
  callOfRoutine,
  callStep,
  checkTrail,
  compileScript,
  datasetSentence,
  emptyDefinition,
  postgresql,
  sentenceText,
} from '../src';
import type { KeptArgument, Parameter, RoutineEntry } from '../src';

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
let minted = 0;
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

describe('an argument that is left blank is told by what is passed', () => {
  const taken = (name: string, startsAs: string | null) => ({
    name,
    sourceType: 'date',
    type: { kind: 'date' as const },
    several: false,
    startsAs,
  });
  const routine = {
    schema: 'coop',
    name: 'kilos_since',
    signature: 'coop.kilos_since(date, date)',
    kind: 'function',
    gives: 'numeric',
    arguments: [taken('since', "'2024-01-01'::date"), taken('until', null)],
    outs: [],
    cursors: false,
    body: '',
  } as unknown as RoutineEntry;
  const { step, parameters: made } = callStep(emptyDefinition(''), () => `id ${minted++}`, 's', { routine, columns: [] });
  const sentence = (leftBlank: Parameter['leftBlank'], given: Record<string, string[]> = {}) =>
    sentenceText(
      datasetSentence(
        checkTrail({ ...emptyDefinition(''), parameters: made.map((each) => ({ ...each, leftBlank })), steps: [step], result: step.id }),
        given,
      ),
    );

  test('its default where it has one, else null', () => {
    expect(sentence('condition is off')).toBe("Kilos since where since its default, '2024-01-01'::date and until null");
    expect(sentence('matches empty')).toBe('Kilos since where since null and until null');
    expect(sentence('must be filled')).toBe('Kilos since where since a value still to be filled and until a value still to be filled');
  });

  test('and by its value where it has one', () => {
    expect(sentence('condition is off', { [made[0]?.id ?? '']: ['2025-04-01'] })).toBe('Kilos since where since 2025-04-01 and until null');
  });
});
