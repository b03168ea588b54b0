import { parseSync, scanSync } from 'libpg-query';
import type { Definition, DescribedPart, FieldType, Parameter, SaidText, SqlStep, TextToSay } from '../../src';
import {
  COMMON_CALENDAR,
  checkTrail,
  date,
  datetime,
  decimal,
  emptyDefinition,
  parseWith,
  sayText,
  sqlStep,
  sqlText,
  text as textType,
  whole,
  yesno,
} from '../../src';

/** Texts over a few tables, said in steps as if their source had described them. */

const parse = parseWith({ parse: parseSync, scan: scanSync });

const table = (
  name: string,
  columns: Readonly<Record<string, FieldType>>,
  key: readonly string[],
  relations: TextToSay['tables'][number]['relations'] = [],
): TextToSay['tables'][number] => ({
  schema: 'coop',
  name,
  columns: Object.entries(columns).map(([column, type]) => ({
    name: column,
    sourceType: type.kind,
    type,
    nullable: !key.includes(column),
    looseText: false,
    primaryKey: key.includes(column),
    foreignKey: false,
    unique: false,
  })),
  keys: [{ columns: key, primary: true }],
  relations,
});

export const TABLES: TextToSay['tables'] = [
  table(
    'harvests',
    {
      id: whole,
      apiary_code: textType,
      kilos: decimal(8, 2),
      moisture: decimal(4, 1),
      picked_on: date,
      weighed_at: datetime,
      frames: whole,
      grade: textType,
      checked: yesno,
    },
    ['id'],
    [{ direction: 'out', columns: ['apiary_code'], otherSchema: 'coop', otherTable: 'apiaries', otherColumns: ['code'] }],
  ),
  table('apiaries', { code: textType, name: textType, hives: whole, region_code: textType }, ['code']),
  table('deliveries', { id: whole, harvest_id: whole, kilos: decimal(8, 2) }, ['id']),
];

export const parameter = (given: Partial<Parameter> & Pick<Parameter, 'name'>): Parameter => ({
  id: `parameter ${given.name}`,
  type: 'text',
  takes: 'one',
  leftBlank: 'must be filled',
  startsAs: [],
  hint: '',
  ...given,
});

export const PARAMETERS: readonly Parameter[] = [
  parameter({ name: 'least', type: 'decimal', leftBlank: 'condition is off' }),
  parameter({ name: 'grades', takes: 'several', leftBlank: 'condition is off' }),
  parameter({ name: 'period', type: 'date', takes: 'range', leftBlank: 'condition is off' }),
  parameter({ name: 'grade', leftBlank: 'condition is off' }),
  parameter({ name: 'flower', leftBlank: 'matches empty' }),
  parameter({ name: 'rows', type: 'whole number' }),
];

/** A step with a text that gives columns of these names. */
export function stepOf(text: string, columns: readonly string[]): SqlStep {
  let minted = 0;
  const fields = columns.map((name) => ({
    id: `own ${name}`,
    name,
    column: name,
    sourceType: 'text',
    type: textType,
    role: 'attribute' as const,
    looseText: false,
  }));
  return { ...sqlStep(() => `text ${++minted}`, 's', sqlText(text, PARAMETERS)), fields };
}

/** Said in steps; parts that stay SQL are described as columns of these names. */
export function saidOf(
  text: string,
  columns: readonly string[],
  described: Readonly<Record<string, readonly string[]>> = {},
  elsewhere: readonly string[] = [],
): SaidText {
  let minted = 0;
  const parts = Object.entries(described).map(([part, names]): DescribedPart => ({
    text: part,
    met: {},
    fields: names.map((name) => ({ name, column: name, sourceType: 'text', type: textType, looseText: false })),
  }));
  const given = {
    step: stepOf(text, columns),
    parameters: PARAMETERS,
    calendar: COMMON_CALENDAR,
    tables: TABLES,
    described: parts,
    usedElsewhere: elsewhere,
  };
  return sayText(given, parse, () => `m${++minted}`);
}

export function definitionOf(said: SaidText): Definition {
  if (said.kind !== 'said') throw new Error(JSON.stringify(said));
  return { ...emptyDefinition('Said'), parameters: PARAMETERS, steps: said.steps, result: said.result };
}

/** The steps a text comes to, each by its kind and sentence. */
export function sentencesOf(said: SaidText): readonly string[] {
  const { steps, problems } = checkTrail(definitionOf(said));
  const wrong = problems.filter((each) => each.severity === 'error');
  if (wrong.length > 0) throw new Error(wrong.map((each) => each.message).join(' '));
  return steps.map(({ step, title }) => `${step.kind}: ${title}`);
}

/** The names of the fields a text's steps hand over, in their order. */
export function handedOver(said: SaidText): readonly string[] {
  const definition = definitionOf(said);
  const result = checkTrail(definition).steps.find(({ step }) => step.id === definition.result);
  return (result?.schema.fields ?? []).filter((each) => !each.forUseOnly).map((each) => each.name);
}
