import type { GivenValues, Parameter } from '../parameters';
import { keptWords, parameterAlone, typedWords, wordsWithIds } from '../parameters';
import type { Operand } from '../criteria';
import type { Layout, Mark } from './layout';

/** The parameter a mark compares with, by its id; undefined where it compares with typed values. */
export const parameterOfMark = ({ operands: [first = ''] }: Pick<Mark, 'operands'>): string | undefined => parameterAlone(first);

type Named = readonly Pick<Parameter, 'id' | 'name'>[];

/** What is compared with as it is kept, of what was typed: a parameter stands there alone, or not as one. */
export function keptOperand(typed: string, parameters: Named): string {
  const kept = keptWords(typed, parameters);
  return parameterAlone(kept) === undefined ? typed : kept;
}

/** As it is typed, of what is kept. */
export const typedOperand = (kept: string, parameters: Named): string =>
  parameterAlone(kept) === undefined ? kept : typedWords(kept, parameters);

/** The mark with ids exchanged. */
export const markWithIds = (mark: Mark, idOf: (id: string) => string): Mark => ({
  ...mark,
  id: idOf(mark.id),
  field: idOf(mark.field),
  ...(mark.against?.of === 'field' ? { against: { ...mark.against, field: idOf(mark.against.field) } } : {}),
  operands: mark.operands.map((text) => (parameterAlone(text) === undefined ? text : wordsWithIds(text, idOf))),
});

/** What a mark compares with, as criteria have it. */
export function operandsOfMark(mark: Pick<Mark, 'operands'>): readonly Operand[] {
  const parameter = parameterOfMark(mark);
  return parameter === undefined ? mark.operands.map((text) => ({ kind: 'value', text })) : [{ kind: 'parameter', id: parameter }];
}

/** The layout with the values its marks compare with in the place of parameters. A mark whose parameter is blank or gone shows nowhere. */
export function withMarkValues<L extends Layout>(layout: L, parameters: readonly Parameter[], values: GivenValues): L {
  const marks = layout.marks.flatMap((mark): readonly Mark[] => {
    const id = mark.against ? undefined : parameterOfMark(mark);
    if (id === undefined) return [mark];
    const parameter = parameters.find((each) => each.id === id);
    const operands = parameter ? (values[id] ?? parameter.startsAs) : [];
    return operands.every((each) => each.trim() === '') ? [] : [{ ...mark, operands }];
  });
  return { ...layout, marks };
}
