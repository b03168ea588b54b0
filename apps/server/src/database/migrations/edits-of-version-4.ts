import type { ExpressionText, Reference } from '@cendra/core';
import { renameReference } from '@cendra/core';

/* Edits as they were written before each revision kept its document. Only the migration that fills those in knows them. */

type Json = Record<string, unknown>;
interface Identified extends Json {
  readonly id: string;
}
interface OldStep extends Identified {
  readonly inputs: readonly string[];
}
interface OldEdit extends Json {
  readonly kind: string;
}

const listOf = <T>(value: unknown): readonly T[] => (Array.isArray(value) ? (value as T[]) : []);

/** The document after edits that applied to it once. What they expected to find is not asked again. */
export function replayed(document: object, edits: readonly object[]): object {
  return (edits as readonly OldEdit[]).reduce(applied, document as Json);
}

function applied(document: Json, edit: OldEdit): Json {
  const { kind, to } = edit;
  const target = edit.property as string;
  switch (kind) {
    case 'set title':
      return { ...document, title: to };
    case 'set calendar':
      return { ...document, calendar: to };
    case 'set dataset':
      return { ...document, [target]: to };
    case 'set request':
      return { ...document, brief: { ...(document.brief as Json), request: to } };
    case 'set proof':
      return { ...document, proof: without({ ...(document.proof as Json), [target]: to }) };
    case 'set sheet':
      return { ...document, sheet: sheetWith(listOf(document.sheet), edit.field as string, target, to) };
    case 'add step':
    case 'remove step':
      return { ...document, steps: stepsWith(listOf(document.steps), edit) };
    case 'add wish':
    case 'remove wish':
    case 'set wish':
      return { ...document, brief: { ...(document.brief as Json), items: listWith(listOf((document.brief as Json).items), edit, 'item') } };
    case 'add parameter':
    case 'remove parameter':
      return { ...document, parameters: listWith(listOf(document.parameters), edit, 'parameter') };
    case 'move parameter':
      return { ...document, parameters: moved(listOf(document.parameters), edit.from as number, to as number) };
    case 'set parameter':
      return { ...document, parameters: changed(document.parameters, edit.parameter, (each) => ({ ...each, [target]: to })) };
    case 'rename parameter':
      return renamed(
        { ...document, parameters: changed(document.parameters, edit.parameter, (each) => ({ ...each, name: to })) },
        'parameter',
        edit.parameter as string,
        to as string,
      );
    case 'rename field': {
      const steps = changed(document.steps, edit.step, (step) => ({
        ...step,
        fields: changed(step.fields, edit.field, (each) => ({ ...each, name: to })),
      }));
      return renamed({ ...document, steps }, 'field', edit.field as string, to as string);
    }
    case 'set step':
      return { ...document, steps: changed(document.steps, edit.step, (step) => ({ ...step, [target]: to })) };
    default: {
      const list = kind.endsWith('clause') ? 'clauses' : 'fields';
      const what = kind.endsWith('clause') ? 'clause' : 'field';
      return {
        ...document,
        steps: changed(document.steps, edit.step, (step) => ({ ...step, [list]: listWith(listOf(step[list]), edit, what) })),
      };
    }
  }
}

const changed = (items: unknown, id: unknown, change: (item: Identified) => Json): readonly Json[] =>
  listOf<Identified>(items).map((each) => (each.id === id ? change(each) : each));

function listWith(items: readonly Identified[], edit: OldEdit, what: string): readonly Json[] {
  if (edit.kind.startsWith('add')) return items.toSpliced(edit.index as number, 0, edit[what] as Identified);
  if (edit.kind.startsWith('remove')) return items.filter((each) => each.id !== (edit[what] as Identified).id);
  const to = edit.to as Identified;
  return items.map((each) => (each.id === to.id ? to : each));
}

function moved<T>(items: readonly T[], from: number, to: number): readonly T[] {
  const item = items[from];
  return item === undefined ? items : items.toSpliced(from, 1).toSpliced(to, 0, item);
}

function stepsWith(steps: readonly OldStep[], edit: OldEdit): readonly Json[] {
  const step = edit.step as OldStep;
  const after = edit.after as string | null;
  const heirs = listOf<string>(edit.heirs);
  const adds = edit.kind === 'add step';
  const [from, to] = adds ? [after, step.id] : [step.id, after];
  const rewired = steps.map((each) =>
    heirs.includes(each.id) ? { ...each, inputs: each.inputs.flatMap((input) => (input === from ? (to ?? []) : input)) } : each,
  );
  if (!adds) return rewired.filter((each) => each.id !== step.id);
  return rewired.toSpliced(after === null ? 0 : rewired.findIndex((each) => each.id === after) + 1, 0, step);
}

function sheetWith(sheet: readonly Json[], field: string, property: string, to: unknown): readonly Json[] {
  const said = without({ ...(sheet.find((each) => each.field === field) ?? { field }), [property]: to });
  const rest = sheet.filter((each) => each.field !== field);
  return Object.keys(said).length === 1 ? rest : [...rest, said].toSorted((a, b) => (String(a.field) < String(b.field) ? -1 : 1));
}

const without = (given: Json): Json => Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined));

/** Every expression anywhere in the steps, which is known by its text and its references. */
function renamed(document: Json, kind: Reference['kind'], id: string, name: string): Json {
  const visit = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(visit);
    if (typeof value !== 'object' || value === null) return value;
    if ('text' in value && 'refs' in value) return renameReference(value as ExpressionText, kind, id, name);
    return Object.fromEntries(Object.entries(value).map(([key, each]) => [key, visit(each)]));
  };
  return { ...document, steps: visit(document.steps) };
}
