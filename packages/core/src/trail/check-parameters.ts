import { familyOf } from '../criteria';
import type { FieldType } from '../fields';
import { allLevels, parameterOfMark, wordsOf } from '../grouping';
import type { Parameter } from '../parameters';
import { bindValues, parametersInWords, parseRelativeDay, parseStretch } from '../parameters';
import type { Problem } from '../problem';
import { problem, warning } from '../problem';
import { kindOf } from '../steps';
import { checkStart } from './bind';
import type { CheckedTrail } from './checked-trail';
import type { Definition } from './definition';

type Of = Pick<CheckedTrail, 'definition' | 'steps'>;

/** What is wrong with parameters, or worth a look: unused, used with two types, breaking their own limits, narrowed in a circle. */
export function parameterProblems(trail: Of): readonly Problem[] {
  const { definition } = trail;
  const uses = usesOf(trail);
  return definition.parameters.flatMap((each) => [
    ...usedProblems(each, uses),
    ...startProblems(each, definition),
    ...choiceProblems(each, definition),
  ]);
}

/** The family of what each parameter is compared with, in every place. */
function usesOf({ definition: { parameters, proof }, steps }: Of): ReadonlyMap<string, ReadonlySet<string>> {
  const families = new Map<string, Set<string>>();
  const note = (id: string, type: FieldType | undefined) => {
    const known = families.get(id) ?? new Set();
    if (type) known.add(familyOf(type));
    families.set(id, known);
  };
  for (const checked of steps) {
    const kind = kindOf(checked.step);
    for (const use of kind.uses(checked.step, parameters)) if (use.kind === 'parameter') note(use.id, undefined);
    if (!checked.step.off) for (const { parameter, meets } of kind.mentions(checked, parameters)) note(parameter, meets);
  }
  for (const id of wordsOf(proof).flatMap(parametersInWords)) note(id, undefined);
  for (const mark of proof.marks) note(parameterOfMark(mark) ?? '', undefined);
  for (const { also } of allLevels(proof)) if (also && 'parameter' in also) note(also.parameter, undefined);
  for (const { choices } of parameters) {
    if (choices && choices.from !== 'typed') for (const each of choices.narrowedBy) note(each.parameter, undefined);
  }
  return families;
}

function usedProblems(parameter: Parameter, uses: ReadonlyMap<string, ReadonlySet<string>>): readonly Problem[] {
  const families = uses.get(parameter.id);
  const place = { parameter: parameter.id };
  if (!families)
    return [
      warning('parameter-unused', `The parameter :${parameter.name} is used nowhere.`, place, 'a clause that asks with it, or remove it'),
    ];
  if (families.size < 2) return [];
  const words = [...families].map((each) => FAMILY_WORDS[each] ?? each).join(' and ');
  return [warning('parameter-two-types', `:${parameter.name} is compared with ${words}.`, place, 'a parameter of its own for each')];
}

const FAMILY_WORDS: Readonly<Record<string, string>> = { text: 'text', number: 'numbers', day: 'dates', yesno: 'yes/no' };

/** Fixed values a parameter starts as are checked here; relative ones depend on the day. */
function startProblems(parameter: Parameter, { calendar }: Definition): readonly Problem[] {
  if (parameter.startsBy === 'expression') return parameter.startsAs.flatMap((each) => checkStart(parameter, each, calendar).problems);
  if (parameter.startsBy === 'first choice') {
    const expected = 'choices, or another start';
    return parameter.choices
      ? []
      : [
          warning(
            'start-unknown',
            `:${parameter.name} starts as its first choice and has no choices.`,
            { parameter: parameter.id },
            expected,
          ),
        ];
  }
  const relative = parameter.startsAs.some((each) => parseRelativeDay(each) ?? parseStretch(each));
  if (relative || parameter.startsAs.length === 0) return [];
  return bindValues([{ ...parameter, leftBlank: 'condition is off' }], {}, 0n, calendar).problems.map((each) => ({
    ...each,
    code: each.code.startsWith('limit') ? 'start-breaks-limit' : each.code,
    severity: 'warning',
    message: `What :${parameter.name} starts as does not suit it: ${each.message}`,
  }));
}

function choiceProblems(parameter: Parameter, { parameters }: Definition): readonly Problem[] {
  const { choices } = parameter;
  const place = { parameter: parameter.id };
  if (!choices || choices.from === 'typed') return [];
  const missing = choices.narrowedBy.filter((each) => !parameters.some(({ id }) => id === each.parameter));
  const gone = missing.map(() =>
    warning('narrowing-gone', `A parameter that narrowed :${parameter.name} is gone.`, place, 'another parameter, or none'),
  );
  const circle = narrowedByItself(parameter, parameters)
    ? [
        problem(
          'narrowing-circular',
          `:${parameter.name} is narrowed by itself, by way of other parameters.`,
          place,
          'narrowing in one direction',
        ),
      ]
    : [];
  return [...gone, ...circle];
}

function narrowedByItself(parameter: Parameter, parameters: readonly Parameter[]): boolean {
  const seen = new Set<string>();
  const visit = (id: string): boolean => {
    const choices = parameters.find((each) => each.id === id)?.choices;
    if (!choices || choices.from === 'typed') return false;
    return choices.narrowedBy.some(({ parameter: by }) => {
      if (by === parameter.id) return true;
      if (seen.has(by)) return false;
      seen.add(by);
      return visit(by);
    });
  };
  return visit(parameter.id);
}
