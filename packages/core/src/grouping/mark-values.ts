import type { GivenValues, Parameter } from '../parameters';
import type { Operand } from '../criteria';
import type { Layout, Mark } from './layout';

/** A parameter stands in a mark by its id, so that the mark says the same whatever it is called. */
const BY_ID = /^:\{([^{}]+)\}$/;

/** The parameter a mark compares with, by its id; undefined where it compares with typed values. */
export const parameterOfMark = ({ operands: [first = ''] }: Pick<Mark, 'operands'>): string | undefined => BY_ID.exec(first)?.[1];

type Named = readonly Pick<Parameter, 'id' | 'name'>[];

/** What is compared with as it is kept, of what was typed: `:name` of a parameter becomes its id. */
export function keptOperand(typed: string, parameters: Named): string {
  const found = parameters.find(({ name }) => typed === `:${name}`);
  return found ? `:{${found.id}}` : typed;
}

/** As it is typed, of what is kept. */
export function typedOperand(kept: string, parameters: Named): string {
  const id = BY_ID.exec(kept)?.[1];
  return id === undefined ? kept : `:${parameters.find((each) => each.id === id)?.name ?? 'gone'}`;
}

/** The mark with ids exchanged. */
export const markWithIds = (mark: Mark, idOf: (id: string) => string): Mark => ({
  ...mark,
  id: idOf(mark.id),
  field: idOf(mark.field),
  operands: mark.operands.map((text) => {
    const id = BY_ID.exec(text)?.[1];
    return id === undefined ? text : `:{${idOf(id)}}`;
  }),
});

/** What a mark compares with, as criteria have it. */
export function operandsOfMark(mark: Pick<Mark, 'operands'>): readonly Operand[] {
  const parameter = parameterOfMark(mark);
  return parameter === undefined ? mark.operands.map((text) => ({ kind: 'value', text })) : [{ kind: 'parameter', id: parameter }];
}

/** The layout with the values its marks compare with in the place of parameters. A mark whose parameter is blank or gone shows nowhere. */
export function withMarkValues<L extends Layout>(layout: L, parameters: readonly Parameter[], values: GivenValues): L {
  const marks = layout.marks.flatMap((mark): readonly Mark[] => {
    const id = parameterOfMark(mark);
    if (id === undefined) return [mark];
    const parameter = parameters.find((each) => each.id === id);
    const operands = parameter ? (values[id] ?? parameter.startsAs) : [];
    return operands.every((each) => each.trim() === '') ? [] : [{ ...mark, operands }];
  });
  return { ...layout, marks };
}
