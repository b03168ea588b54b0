import { fieldsUsed } from '../expressions';
import { fieldById } from '../fields';
import { checkedOf } from '../steps';
import { beginning } from '../values';
import { checkTrail } from './check';
import type { Definition } from './definition';
import { behindResult, subjectOf } from './sentence';

/** Characters a title may have. */
export const LONGEST_TITLE = 200;
const MOST_FIELDS = 3;

/**
 * What a dataset is called: its title, or without one the rows it is of and the fields that decide which are kept.
 * No value is ever part of it, for everybody reads names, also those who lack its sources.
 */
export function datasetName(definition: Definition): string {
  if (definition.title !== '') return definition.title;
  const trail = checkTrail(definition);
  const rows = subjectOf(trail)?.title.replaceAll('_', ' ') ?? 'nothing yet';
  const deciding = behindResult(trail).flatMap((each) => {
    const criteria = each.step.off ? undefined : checkedOf('criteria', each);
    const fields = (criteria?.checked ?? []).flatMap(({ expression }) => (expression ? fieldsUsed(expression) : []));
    return fields.flatMap((id) => fieldById(each.schema, id)?.name.replaceAll('_', ' ') ?? []);
  });
  const kept = [...new Set(deciding)];
  const told = kept.slice(0, MOST_FIELDS);
  const more = kept.length > told.length ? [`${kept.length - told.length} more`] : [];
  const words = [...told, ...more];
  const by = words.length > 1 ? `${words.slice(0, -1).join(', ')} and ${words.at(-1)}` : words.join('');
  return beginning(`${rows.charAt(0).toUpperCase()}${rows.slice(1)}${by === '' ? '' : ` by ${by}`}`, LONGEST_TITLE);
}
