import { clausesWithin, familyOf } from '../criteria';
import type { Expression } from '../expressions';
import { checkCondition, nodesOf } from '../expressions';
import type { FieldType } from '../fields';
import { fieldById } from '../fields';
import type { Parameter } from '../parameters';
import { bindValues, parseRelativeDay, parseStretch } from '../parameters';
import type { Problem } from '../problem';
import { problem, warning } from '../problem';
import { kindOf } from '../steps';
import { checkStart } from './bind';
import type { CheckedStep } from './check';
import type { Definition } from './definition';

/** What is wrong with parameters, or worth a look: unused, used with two types, breaking their own limits, narrowed in a circle. */
export function parameterProblems(definition: Definition, steps: readonly CheckedStep[]): readonly Problem[] {
  const uses = usesOf(definition, steps);
  return definition.parameters.flatMap((each) => [
    ...usedProblems(each, uses),
    ...startProblems(each, definition),
    ...choiceProblems(each, definition),
  ]);
}

/** The family of what each parameter is compared with, in every place. */
function usesOf(definition: Definition, steps: readonly CheckedStep[]): ReadonlyMap<string, ReadonlySet<string>> {
  const families = new Map<string, Set<string>>();
  const note = (id: string, type: FieldType | undefined) => {
    const known = families.get(id) ?? new Set();
    if (type) known.add(familyOf(type));
    families.set(id, known);
  };
  for (const { step, schema } of steps) {
    for (const use of kindOf(step).uses(step, definition.parameters)) if (use.kind === 'parameter') note(use.id, undefined);
    if (step.kind !== 'criteria' || step.off) continue;
    for (const clause of step.clauses.flatMap(clausesWithin)) {
      if (clause.kind === 'condition')
        for (const each of clause.operands) if (each.kind === 'parameter') note(each.id, fieldById(schema, clause.field)?.type);
      if (clause.kind === 'expression') {
        const { expression } = checkCondition(clause.expression.text, {
          schema,
          parameters: definition.parameters,
          refs: clause.expression.refs,
        });
        for (const node of expression ? nodesOf(expression) : []) for (const met of parametersMet(node)) note(met.id, met.type);
      }
    }
  }
  for (const { choices } of definition.parameters) {
    if (choices && choices.from !== 'typed') for (const each of choices.narrowedBy) note(each.parameter, undefined);
  }
  return families;
}

/** Parameters an operation compares with something, and that thing's type. */
function parametersMet(node: Expression): readonly { readonly id: string; readonly type: FieldType }[] {
  if (node.op === 'inList') return [{ id: node.id, type: node.of.type }];
  if (node.op !== 'compare') return [];
  const bare = (of: Expression): Expression => (of.op === 'widen' || of.op === 'cast' ? bare(of.of) : of);
  const [left, right] = [bare(node.left), bare(node.right)];
  return [
    ...(left.op === 'parameter' ? [{ id: left.id, type: right.type }] : []),
    ...(right.op === 'parameter' ? [{ id: right.id, type: left.type }] : []),
  ];
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
