import { fieldById } from '../fields';
import { allLevels, parameterOfMark } from '../grouping';
import type { GivenValues, Parameter } from '../parameters';
import { parseStretch } from '../parameters';
import { kindOf } from '../steps';
import type { CheckedStep, Unasked } from '../steps';
import type { CheckedTrail } from './checked-trail';
import { checkedStep, resultStep } from './checked-trail';
import { subTrail } from './sub-trail';

/** A piece of the dataset's sentence: words, or a slot for a parameter's values. */
export type SentencePart =
  | { readonly text: string }
  | {
      readonly parameter: Parameter;
      readonly values: readonly string[];
      /** What it comes to when it is left blank, where no condition is off or compares with nothing. */
      readonly blank?: string;
    };

/**
 * The dataset's sentence: what its rows are, each parameter at the words it stands with, and what decides besides,
 * whatever the steps are called. Values are those given, or else what the parameter starts as.
 */
export function datasetSentence(trail: CheckedTrail, given: GivenValues): readonly SentencePart[] {
  const first = subjectOf(trail);
  if (!first) return [{ text: 'Nothing yet' }];
  const fixed = unasked(trail);
  const conditions = fixed.flatMap((each) => ('where' in each ? [each.where] : []));
  const taken = fixed.flatMap((each) => ('taken' in each ? [each.taken] : []));
  const where = conditions.length > 0 ? ` where ${conditions.join(' and ')}` : '';
  const parts: SentencePart[] = [{ text: `${capital(first.title)}${where}` }];
  const told = new Set<string>();
  const all = mentions(trail);
  for (const { words, parameter, apart, blank } of [...all.filter((each) => !each.apart), ...all.filter((each) => each.apart)]) {
    if (told.has(parameter.id)) continue;
    parts.push(
      { text: `${apart ? ', ' : told.size === 0 && where === '' ? ' where ' : ' and '}${words} ` },
      {
        parameter,
        values: given[parameter.id] ?? (parameter.startsBy === undefined ? parameter.startsAs : []),
        ...(blank === undefined ? {} : { blank }),
      },
    );
    told.add(parameter.id);
  }
  if (taken.length > 0) parts.push({ text: `, ${taken.join(', ')}` });
  return parts;
}

/** The step whose rows the result is of: where its first inputs lead to. */
export function subjectOf(trail: CheckedTrail): CheckedStep | undefined {
  let current = resultStep(trail);
  for (;;) {
    const [input] = current?.step.inputs ?? [];
    const before = typeof input === 'string' ? checkedStep(trail, input) : undefined;
    if (!before) return current;
    current = before;
  }
}

/** The steps the result stands on, itself included, in the order of the definition. */
export function behindResult(trail: CheckedTrail): readonly CheckedStep[] {
  const { result } = trail.definition;
  return result === null ? [] : subTrail(trail.definition, result).flatMap(({ id }) => checkedStep(trail, id) ?? []);
}

/** The sentence as plain text, the proof's title. A blank parameter is told by what blank means. */
export function sentenceText(parts: readonly SentencePart[]): string {
  return parts.map((part) => ('text' in part ? part.text : valuesText(part.parameter, part.values, part.blank))).join('');
}

/** What decides which rows there are and no parameter stands in, step by step. */
function unasked(trail: CheckedTrail): readonly Unasked[] {
  const { definition, catalogue } = trail;
  const context = { parameters: definition.parameters, calendar: definition.calendar, catalogue };
  return behindResult(trail).flatMap(({ step, arriving }) => (step.off ? [] : (kindOf(step).unasked(step, arriving, context) ?? [])));
}

/** The values of a parameter in words, choices by their labels; what a blank one comes to, where that is said. More than twelve are only counted. */
export function valuesText(parameter: Parameter, values: readonly string[], blank?: string): string {
  if (values.every((each) => each.trim() === '')) return blank ?? BLANK_WORDS[parameter.leftBlank];
  if (parameter.takes === 'range') {
    const [from = '', until = ''] = values;
    if (until === '' && parseStretch(from)) return from;
    return from === '' ? `until ${until}` : until === '' ? `from ${from}` : `${from} until ${until}`;
  }
  return values.length > 12 ? `${values.length} values` : values.map((each) => labelOf(parameter, each)).join(', ');
}

/** What a typed choice is shown as; other values speak for themselves. */
function labelOf({ choices }: Parameter, value: string): string {
  const label = choices?.from === 'typed' ? choices.items.find((each) => each.value === value)?.label : undefined;
  return label || value;
}

const BLANK_WORDS = { 'must be filled': 'a value still to be filled', 'condition is off': 'anything', 'matches empty': 'null' };

interface Mention {
  readonly words: string;
  /** It is told by itself: it decides nothing about which rows there are, or is named in a condition before. */
  readonly apart?: true;
  readonly parameter: Parameter;
  readonly blank?: string;
}

/** Every parameter at the words it stands with; those that only narrow choices come first, by their names. */
function mentions(trail: CheckedTrail): readonly Mention[] {
  const { parameters } = trail.definition;
  const asked = asking(trail);
  const narrowing = new Set(
    parameters.flatMap(({ choices }) => (choices && choices.from !== 'typed' ? choices.narrowedBy.map((each) => each.parameter) : [])),
  );
  const only = parameters.filter(({ id }) => narrowing.has(id) && !asked.some((each) => each.parameter.id === id));
  const told = [...asked, ...marking(trail)];
  const groups = grouping(trail).filter(({ parameter }) => !told.some((each) => each.parameter.id === parameter.id));
  return [...only.map((parameter) => ({ words: `${parameter.name} is`, parameter })), ...told, ...groups];
}

/** Parameters the proof's marks compare with. */
function marking(trail: CheckedTrail): readonly Mention[] {
  const { parameters, proof } = trail.definition;
  const schema = resultStep(trail)?.schema ?? { fields: [] };
  return proof.marks.flatMap((mark) => {
    const parameter = parameters.find((each) => each.id === parameterOfMark(mark));
    const name = fieldById(schema, mark.field)?.name;
    const of = mark.of === undefined ? '' : `${mark.of} of `;
    return parameter && name !== undefined ? [{ words: `${of}${name} marked ${mark.operator}`, parameter, apart: true }] : [];
  });
}

/** Parameters whose values are groups of the proof. */
function grouping(trail: CheckedTrail): readonly Mention[] {
  const { parameters, proof } = trail.definition;
  return allLevels(proof).flatMap(({ field, also }) => {
    const parameter = also?.of === 'parameter' ? parameters.find((each) => each.id === also.parameter) : undefined;
    const name = fieldById(resultStep(trail)?.schema ?? { fields: [] }, field)?.name;
    return parameter && name !== undefined ? [{ words: `groups of ${name} for`, parameter, apart: true }] : [];
  });
}

function asking(trail: CheckedTrail): readonly Mention[] {
  const { parameters } = trail.definition;
  const behind = behindResult(trail);
  const all = [...behind, ...trail.steps.filter((each) => !behind.includes(each))];
  return all.flatMap((checked) => {
    if (checked.step.off) return [];
    return kindOf(checked.step)
      .mentions(checked, parameters)
      .flatMap(({ parameter: id, words, blank, apart }) => {
        const parameter = parameters.find((each) => each.id === id);
        return parameter ? [{ words, parameter, ...(blank === undefined ? {} : { blank }), ...(apart ? { apart } : {}) }] : [];
      });
  });
}

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1).replaceAll('_', ' ');
