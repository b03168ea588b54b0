import type { FieldType } from '../fields';
import type { Parameter } from '../parameters';
import { parameterTypeFor } from '../parameters';
import type { ConvertedText, ParameterPlace, TypesMet } from '../statements';
import { parametersIn } from '../statements';
import type { DescribedField, DescribedPart, FieldsNow, ScriptStep, SqlStep, TextStepParts } from '../steps';
import { fieldsNow, scriptStep, sqlText } from '../steps';
import { applyEdit } from './apply-edits';
import type { TableAround } from './asked-of-tables';
import { choicesAskedOf, columnsAskedOf } from './asked-of-tables';
import type { Mint } from './build';
import { removeStepEdit, slotsOf } from './build';
import type { Definition } from './definition';
import type { Edit } from './edits';
import { equal } from './equal';
import { placeAt } from './places';

/** What a source said of a text: its columns, and what its parameters meet, in the order of their places. */
export interface DescribedText {
  readonly columns: readonly DescribedField[];
  readonly met: readonly { readonly name: string; readonly sourceType: string; readonly type: FieldType }[];
  /** The tables it names and those their keys lead to; new parameters are offered values of them. Left out where none is known. */
  readonly tables?: readonly TableAround[];
}

/** A part of a text with what its source says of it. */
export function describedPart(text: string, { columns, met }: DescribedText): DescribedPart {
  const { fields } = fieldsNow([], columns, () => '');
  return {
    text,
    met: metByName(met),
    fields: fields.map(({ name, column, sourceType, type, looseText }) => ({ name, column, sourceType, type, looseText })),
  };
}

/** The edits that take a described text over into its step, and what that does to the step's fields. */
export interface TextTakenOver extends FieldsNow {
  readonly edits: readonly Edit[];
  readonly parameters: readonly Parameter[];
}

/**
 * A text and what its source says of it as edits: new parameters for names that have none, the text, its fields, and
 * what its parameters meet. Nothing is edited that is so already.
 */
export function takeTextOver(
  definition: Definition,
  step: TextStepParts,
  text: string,
  described: DescribedText,
  mint: Mint,
): TextTakenOver {
  const fresh = parametersFor(definition.parameters, step.source, text, described, mint);
  const now = fieldsNow(step.fields, described.columns, mint);
  const met = metByName(described.met);
  const ids = new Set(now.fields.map((each) => each.id));
  const key = step.key.filter((each) => ids.has(each));
  const edits = [
    ...adding(definition, fresh),
    ...setting(step, 'sql', step.sql, sqlText(text, [...definition.parameters, ...fresh])),
    ...setting(step, 'met', step.met, met),
    ...setting(step, 'key', step.key, key),
    ...setting(step, 'fields', step.fields, now.fields),
  ];
  return { ...now, edits, parameters: fresh };
}

/**
 * A text with its parameters written as ours: those it declares are new ones, with the types and first values it gives them,
 * and what the tables it names offer for them.
 */
export function convertEdits(
  definition: Definition,
  step: TextStepParts,
  converted: ConvertedText,
  tables: readonly TableAround[],
  mint: Mint,
): readonly Edit[] {
  const taken = new Set(definition.parameters.map((each) => each.name));
  // What a type is not declared for, the source says.
  const declared = converted.parameters.filter((each) => !taken.has(each.name) && (each.type ?? each.startsAs) !== undefined);
  const fresh = parametersMade(definition.parameters, step.source, converted.text, tables, declared, mint);
  return [...adding(definition, fresh), ...setting(step, 'sql', step.sql, sqlText(converted.text, [...definition.parameters, ...fresh]))];
}

/** The text alone, as it was typed: what its source says of it is not known yet. */
export function textEdit(definition: Pick<Definition, 'parameters'>, step: TextStepParts, text: string): readonly Edit[] {
  return setting(step, 'sql', step.sql, sqlText(text, definition.parameters));
}

/** A text that holds several statements as a script in its place: its fields stay what they are to the steps behind. */
export function scriptInstead(
  definition: Definition,
  text: SqlStep,
  mint: Mint,
): { readonly edits: readonly Edit[]; readonly step: string } {
  const { name, fields, met, key, called, letBe } = text;
  const own = { name, fields, met, key, ...(called ? { called } : {}), ...(letBe ? { letBe } : {}) };
  const script: ScriptStep = { ...scriptStep(mint, text.source, text.sql), ...own };
  // An id is one field's: the text lets go of them before the script has them.
  const emptied = [...setting(text, 'key', text.key, []), ...setting(text, 'fields', text.fields, [])];
  const index = definition.steps.findIndex((each) => each.id === text.id) + 1;
  const heirs = slotsOf(definition, text.id).map((each) => ({ ...each, instead: text.id }));
  const add = { kind: 'add step', step: script, at: placeAt(definition.steps, index), heirs } as const;
  const added: Edit = definition.result === text.id ? { ...add, handedOver: { instead: text.id } } : add;
  const before = [...emptied, added];
  const removed = removeStepEdit(before.reduce(applyEdit, definition), text.id);
  return { edits: removed ? [...before, removed] : before, step: script.id };
}

/** The types of what parameters meet, in the order of their places, by their names. */
export function metByName(told: readonly { readonly name: string; readonly sourceType: string }[]): TypesMet {
  const met: Record<string, string[]> = {};
  for (const { name, sourceType } of told) (met[name] ??= []).push(sourceType);
  return met;
}

function setting(step: TextStepParts, property: 'sql' | 'met' | 'key' | 'fields', from: unknown, to: unknown): readonly Edit[] {
  return equal(from, to) ? [] : [{ kind: 'set step', step: step.id, property, from, to }];
}

function adding({ parameters }: Definition, fresh: readonly Parameter[]): readonly Edit[] {
  return fresh.map((parameter, at) => {
    const after = fresh[at - 1]?.id ?? parameters.at(-1)?.id ?? null;
    return { kind: 'add parameter', parameter, at: { after, before: null } };
  });
}

/** A parameter for each name that has none, its type from what it meets. */
function parametersFor(
  parameters: readonly Parameter[],
  source: string,
  text: string,
  { met, tables = [] }: Pick<DescribedText, 'met' | 'tables'>,
  mint: Mint,
): readonly Parameter[] {
  const taken = new Set(parameters.map((each) => each.name));
  const names = [...new Set(parametersIn(text).map((each) => each.name))].filter((each) => !taken.has(each));
  const wanted = names.map((name) => {
    const meets = met.find((each) => each.name === name)?.type;
    return meets ? { name, type: parameterTypeFor(meets) } : { name };
  });
  return parametersMade(parameters, source, text, tables, wanted, mint);
}

/**
 * New parameters of a text: several or a range from how they stand, off when blank where that takes a condition away, and the
 * values of a table where they have to equal a column of that type.
 */
function parametersMade(
  parameters: readonly Parameter[],
  source: string,
  text: string,
  tables: readonly TableAround[],
  wanted: ConvertedText['parameters'],
  mint: Mint,
): readonly Parameter[] {
  const places = parametersIn(text);
  const asked = columnsAskedOf(text, tables);
  return wanted.reduce<readonly Parameter[]>((made, { name, type = 'text', startsAs = '' }) => {
    const own = places.filter((each) => each.name === name);
    const takes = takesOf(own);
    const known = [...parameters, ...made];
    const idOf = (other: string) => known.find((each) => each.name === other)?.id;
    const choices = takes === 'range' ? undefined : choicesAskedOf(asked, { name, type }, source, tables, idOf);
    const starts = startsAs === '' ? [] : [startsAs];
    return [
      ...made,
      { id: mint(), name, type, takes, leftBlank: blankOf(own), startsAs: starts, hint: '', ...(choices ? { choices } : {}) },
    ];
  }, []);
}

function takesOf(places: readonly ParameterPlace[]): Parameter['takes'] {
  if (places.every((each) => each.stands === 'range')) return 'range';
  return places.every((each) => each.stands === 'several') ? 'several' : 'one';
}

function blankOf(places: readonly ParameterPlace[]): Parameter['leftBlank'] {
  if (places.some((each) => each.stands === 'asked whether blank')) return 'matches empty';
  return places.every((each) => each.condition.whole) ? 'condition is off' : 'must be filled';
}
