import { fieldById, fieldByName } from '../fields';
import type { Parameter } from '../parameters';
import { parameterType } from '../parameters';
import type { Checking } from './checking';
import type { Expression } from './expression';
import { nearestName } from './nearest';
import { writtenName } from './reserved';
import type { Tree } from './tree';

/** The field a name means: by id where the text was linked, else by the name as it is written. */
export function checkName(checking: Checking, tree: Tree & { node: 'name' }): Expression | undefined {
  const linked = checking.linkedTo('field', tree);
  const field =
    linked !== undefined ? fieldById(checking.scope.schema, linked) : fieldByName(checking.scope.schema, tree.name, tree.quoted);
  if (field) return { op: 'field', type: field.type, id: field.id };
  const absent = checking.scope.absent?.find((each) => (linked !== undefined ? each.id === linked : sameName(each.name, tree)));
  if (absent) return checking.fail(absent.code, absent.message, tree, absent.expected);
  const { word, names } = checking.scope.naming ?? { word: 'field', names: checking.scope.schema.fields.map((each) => each.name) };
  const near = nearestName(tree.name, names);
  const expected = near ? `did you mean ${near}?` : undefined;
  const instead = near && writtenName('field', near);
  if (linked !== undefined)
    return checking.fail(
      'field-gone',
      `The ${word} ${tree.name} does not arrive here any more.`,
      tree,
      expected ?? `another ${word}`,
      instead,
    );
  return checking.fail('field-unknown', `There is no ${word} ${tree.name} here.`, tree, expected, instead);
}

/** A parameter that takes one value; the others stand in places of their own. */
export function checkParameter(checking: Checking, tree: Tree & { node: 'parameter' }): Expression | undefined {
  const found = findParameter(checking, tree);
  if (!found) return undefined;
  if (found.takes === 'one') return { op: 'parameter', type: parameterType(found), id: found.id };
  const place = found.takes === 'several' ? 'after in' : 'after between, as between :name and :name';
  return checking.fail(
    'parameter-takes',
    `:${found.name} takes ${found.takes === 'several' ? 'several values' : 'a range'}.`,
    tree,
    `to stand ${place}`,
  );
}

/** The parameter a name means; when there is none, that is noted. */
export function findParameter(checking: Checking, tree: Tree & { node: 'parameter' }): Parameter | undefined {
  const linked = checking.linkedTo('parameter', tree);
  const found = checking.scope.parameters.find((each) => (linked !== undefined ? each.id === linked : each.name === tree.name));
  if (!found) {
    const near = nearestName(
      tree.name,
      checking.scope.parameters.map((each) => each.name),
    );
    checking.fail(
      'parameter-unknown',
      `There is no parameter :${tree.name}.`,
      tree,
      near ? `did you mean :${near}?` : 'the name of a parameter of this dataset',
      near && `:${near}`,
    );
  }
  return found;
}

const sameName = (name: string, tree: { readonly name: string; readonly quoted: boolean }) =>
  name === tree.name || (!tree.quoted && name.toLowerCase() === tree.name.toLowerCase());
