import type { Step } from '../steps';
import type { Definition } from './definition';
import { sourcesOf } from './definition';
import type { Edit } from './edits';

/**
 * The edits that point a step to another source. Choices that came from tables of the one it read come from there too, unless
 * another step still reads that: left behind, they would keep the dataset at two sources.
 */
export function pointEdits(
  { steps, parameters }: Pick<Definition, 'steps' | 'parameters'>,
  { id, source }: Step & { readonly source: string },
  to: string,
): readonly Edit[] {
  if (source === to) return [];
  const stays = sourcesOf({ steps: steps.filter((each) => each.id !== id) }).includes(source);
  return [
    { kind: 'set step', step: id, property: 'source', from: source, to },
    ...parameters.flatMap(({ id: parameter, choices }): readonly Edit[] =>
      stays || choices?.from !== 'table' || choices.table.source !== source
        ? []
        : [
            {
              kind: 'set parameter',
              parameter,
              property: 'choices',
              from: choices,
              to: { ...choices, table: { ...choices.table, source: to } },
            },
          ],
    ),
  ];
}
