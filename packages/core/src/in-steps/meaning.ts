import type { Expression, Scope } from '../expressions';
import { checkExpression } from '../expressions';
import type { Field, FieldType } from '../fields';
import { fieldByName } from '../fields';
import type { Parameter } from '../parameters';
import { writtenName } from '../expressions';
import type { SyntaxTree, TreeNode } from '../statements';
import type { Said } from './said';
import { one } from './said';
import { unsaid } from './unsaid';

/** What the names of an expression mean at its place. */
export interface Meaning {
  /** Says an expression with what names mean here; a part of one is said with it again. */
  say(tree: SyntaxTree | undefined, meaning: Meaning, beside?: FieldType): Said;
  readonly scope: Scope;
  /** The field a column is here. Throws Unsaid where none is, or several are. */
  column(names: readonly string[], location: SyntaxTree | undefined): Field;
  /** The field that stands for a part as a whole, as a key or a figure does behind a summary. */
  instead?(tree: SyntaxTree): Field | undefined;
  /** The parameter at a place of the tree. */
  parameter(location: SyntaxTree | undefined): ParameterMet;
  /** Has a parameter, left blank, switch its condition off in steps; false where something else relies on what it is now. */
  switchesOff(parameter: Parameter): boolean;
  /** Windows by the names the text gives them. */
  readonly windows: ReadonlyMap<string, TreeNode['of']>;
  /** Whether a blank parameter switches off the condition it stands in, as in criteria; else it is null. */
  readonly switches: boolean;
}

/** A parameter where it stands in a text. */
export interface ParameterMet {
  readonly parameter: Parameter;
  /** The text asks somewhere whether it is blank: then it is null at all its places, whatever it says of itself. */
  readonly asked: boolean;
  /** In how many places of the text it stands. */
  readonly places: number;
}

/** A field by its name, as long as the name means it. */
export function fieldSaid({ id, name }: Field, { schema }: Scope): Said {
  const text = writtenName('field', name);
  if (fieldByName(schema, name, text.startsWith('"'))?.id !== id) unsaid(`Two fields would be called ${name}.`);
  return one(text);
}

/** The type of what is said; undefined while it has none. */
export const typeOf = ({ text }: Said, { scope }: Meaning): FieldType | undefined => checkExpression(text, scope).expression?.type;

/** What is said as a typed expression. Throws Unsaid with what the language says against it. */
export function understood({ text }: Said, scope: Scope, location?: unknown): Expression {
  const { expression, problems } = checkExpression(text, scope);
  return expression ?? unsaid(problems[0]?.message ?? 'It cannot be read as an expression.', location);
}
