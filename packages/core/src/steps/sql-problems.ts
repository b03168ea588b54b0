import type { Parameter } from '../parameters';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { ParameterPlace, TextStatement } from '../statements';
import { MOST_PLACES, placesIn } from '../statements';
import type { TextStepParts } from './text-step';

/** What keeps a text from being statements that can run, of which it may hold so many. */
export function textProblems(step: TextStepParts, statements: readonly TextStatement[], most: number): readonly Problem[] {
  const place = { step: step.id };
  const [first] = statements;
  const further = statements[most];
  if (!first) return [problem('text-empty', 'There is no statement in this text yet.', place, 'a statement that reads, such as a select')];
  if (further) {
    const { from, to } = further;
    const several = `There are ${statements.length} statements in this text.`;
    const expected = most === 1 ? 'one statement: the one that is meant' : `at most ${most}`;
    return [problem('statements-several', several, { ...place, position: { from, to } }, expected)];
  }
  const open = statements.flatMap(({ tokens }) => tokens).find((each) => each.kind === 'open');
  if (open) {
    const what = open.text.startsWith('/*')
      ? 'A comment'
      : open.text.endsWith('"') || open.text.startsWith('"')
        ? 'A name in double quotes'
        : 'A text in quotes';
    return [
      problem('text-unended', `${what} begins here and does not end.`, { ...place, position: { from: open.from, to: open.to } }, 'its end'),
    ];
  }
  if (step.fields.length === 0) return [problem('text-not-described', 'The source has not said yet which fields this text gives.', place)];
  return [];
}

/** Parameters that are missing, take another number of values than stands there, or cannot be off. */
export function parameterProblems(step: TextStepParts, statement: TextStatement, parameters: readonly Parameter[]): readonly Problem[] {
  const byName = new Map(parameters.map((each) => [each.name, each]));
  const places = placesIn(statement.tokens);
  const asked = new Set(places.flatMap(({ name, stands }) => (stands === 'asked whether blank' ? [name] : [])));
  const count = statement.tokens.filter((each) => each.kind === 'parameter').length;
  if (count > MOST_PLACES)
    return [problem('parameters-many', `Parameters stand in ${count} places of this text.`, { step: step.id }, `at most ${MOST_PLACES}`)];
  return places.flatMap((place): readonly Problem[] => {
    const at = { step: step.id, position: { from: place.from, to: place.to } };
    const parameter = byName.get(place.name);
    if (!parameter)
      return [problem('parameter-unknown', `There is no parameter :${place.name} yet.`, at, 'the name of a parameter, or a new one')];
    const own = { ...at, parameter: parameter.id };
    if (
      place.stands === 'several'
        ? parameter.takes === 'range'
        : place.stands === 'range'
          ? parameter.takes !== 'range'
          : parameter.takes !== 'one'
    )
      return [
        problem(
          'parameter-takes',
          `:${place.name} takes ${TAKES[parameter.takes]}, and here ${STANDS[place.stands]}.`,
          own,
          WANTS[place.stands],
        ),
      ];
    if (parameter.leftBlank !== 'condition is off' || asked.has(place.name) || place.condition.whole) return [];
    const message = `Left blank, :${place.name} cannot switch its condition off: ${place.condition.because}.`;
    return [
      problem('blank-cannot-be-off', message, own, 'a parameter that must be filled or matches empty, or a condition joined by “and”'),
    ];
  });
}

const TAKES = { one: 'one value', several: 'several values', range: 'a range' } as const;
const STANDS: Readonly<Record<ParameterPlace['stands'], string>> = {
  one: 'one value stands',
  several: 'several values stand',
  range: 'both ends of a range stand',
  'asked whether blank': 'one value stands',
};
const WANTS: Readonly<Record<ParameterPlace['stands'], string>> = {
  one: 'a parameter that takes one value, or “in (:name)” or “between :name”',
  several: 'a parameter that takes one or several values',
  range: 'a parameter that takes a range, or “between :from and :until”',
  'asked whether blank': 'a parameter that takes one value',
};
