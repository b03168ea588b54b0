import fc from 'fast-check';
import type { Definition, Edit, Step } from '../src';
import {
  addItem,
  addStepAfter,
  applyEdits,
  checkTrail,
  editSentence,
  editsBetween,
  editShape,
  invertEdits,
  itemsOf,
  kindOf,
  placeAt,
  placeOf,
  ProblemError,
  readDefinition,
  rebindEdit,
  removeItem,
  removeStepEdit,
  setItem,
  withFreshIds,
} from '../src';
import { examples } from './support/examples';
import { graph } from './support/graphs';

/** Edits of graphs of steps, the made-up kind with two inputs among them. */

/** Edits of every kind that changes the structure, as they can be made of a graph. */
function editsOf({ steps, result }: Definition, seed: number): readonly Edit[] {
  const at = <T>(items: readonly T[], by: number): T | undefined => (items.length === 0 ? undefined : items[(seed + by) % items.length]);
  const definition = { steps, result };
  const step = at(steps, 0) as Step;
  const other = at(steps, 3) as Step;
  const index = steps.indexOf(step);
  const rest = steps.filter((each) => each !== step);
  const slot = step.inputs.length > 0 ? seed % step.inputs.length : 0;
  const before = steps.slice(0, index).map((each) => each.id);
  const clause = { id: `new-${seed}`, kind: 'expression' as const, off: false, expression: { text: 'true', refs: [] } };
  const added: Step = {
    id: `new-step-${seed}`,
    kind: 'criteria',
    name: '',
    off: false,
    inputs: [step.id],
    head: 'none',
    clauses: [clause],
  };
  const list = Object.keys(kindOf(step).lists)[0];
  const item = list === undefined ? undefined : at(itemsOf(step, list), 0);
  const field = kindOf(step).mints(step)[0];
  const edits: readonly (Edit | undefined)[] = [
    addStepAfter(definition, step.id, added),
    removeStepEdit(definition, step.id),
    { kind: 'move step', step: step.id, from: placeOf(steps, step.id), to: placeAt(rest, (index + seed) % steps.length) },
    step.inputs.length > 0
      ? { kind: 'set input', step: step.id, slot, from: step.inputs[slot] ?? null, to: at([...before, null], 1) ?? null }
      : undefined,
    { kind: 'set result', from: result, to: other.id },
    { kind: 'set step', step: step.id, property: 'off', from: step.off, to: !step.off },
    { kind: 'set step', step: step.id, property: 'name', from: step.name, to: `named ${seed}` },
    list === 'clauses' ? addItem(step, list, clause, seed % 2) : undefined,
    list !== undefined && item ? removeItem(step, list, item) : undefined,
    list === 'fields' && item ? setItem(step, list, item, { ...item, name: `other_${seed}` } as typeof item) : undefined,
    step.kind === 'calculate' && field
      ? { kind: 'rename field', step: step.id, field, from: step.fields[0]?.name ?? '', to: `renamed_${seed}` }
      : undefined,
  ];
  return edits.flatMap((each) => each ?? []);
}

const edited = (definition: Definition, edit: Edit): Definition | undefined => {
  try {
    return applyEdits(definition, [edit]);
  } catch (error) {
    if (error instanceof ProblemError) return undefined;
    throw error;
  }
};

describe('edits of a graph', () => {
  test('each is sent as it is, says what it did, and its inverse gives the same document again', () => {
    const done = new Set<string>();
    fc.assert(
      fc.property(graph, fc.nat(50), ({ definition }, seed) => {
        for (const edit of editsOf(definition, seed)) {
          const after = edited(definition, edit);
          if (!after) continue;
          done.add(edit.kind);
          expect(editShape.parse(JSON.parse(JSON.stringify(edit)))).toEqual(JSON.parse(JSON.stringify(edit)));
          expect(editSentence(edit, definition)).toMatch(/^\w+/);
          expect(applyEdits(after, invertEdits([edit]))).toEqual(definition);
        }
      }),
    );
    expect(done.size).toBe(10);
  });

  test('of two people give the same document in either order, or one of them is told', () => {
    let both = 0;
    fc.assert(
      fc.property(graph, fc.nat(50), fc.nat(50), ({ definition }, first, second) => {
        for (const mine of editsOf(definition, first))
          for (const theirs of editsOf(definition, second)) {
            const [a, b] = [edited(definition, mine), edited(definition, theirs)];
            const [ab, ba] = [a && edited(a, theirs), b && edited(b, mine)];
            if (!ab || !ba) continue;
            both++;
            expect(ab).toEqual(ba);
          }
      }),
      examples(25),
    );
    expect(both).toBeGreaterThan(500);
  });

  test('lead from any graph to any other', () => {
    fc.assert(
      fc.property(graph, graph, (from, to) => {
        const edits = editsBetween(from.definition, to.definition);
        expect(applyEdits(from.definition, edits)).toEqual(to.definition);
        for (const edit of edits) expect(editShape.safeParse(JSON.parse(JSON.stringify(edit))).success).toBe(true);
      }),
    );
  });

  test('the removal of one input, and of what takes it, is undone to the same graph', () => {
    fc.assert(
      fc.property(graph, ({ definition }) => {
        let current = definition;
        const undo: Edit[] = [];
        for (const { id } of definition.steps) {
          const edit = removeStepEdit(current, id);
          const after = edit && edited(current, edit);
          if (!edit || !after) continue;
          current = after;
          undo.unshift(...invertEdits([edit]));
        }
        expect(applyEdits(current, undo)).toEqual(definition);
      }),
    );
  });

  test('a replaced input takes its fields along, and the way back is exact', () => {
    fc.assert(
      fc.property(graph, ({ definition }) => {
        const table = definition.steps.find((each) => each.kind === 'table');
        if (table?.kind !== 'table') return;
        const map = table.fields.map(({ id, column }) => ({ from: id, to: `${id} now`, name: `${column}_now` }));
        const behind = definition.steps.find((each) => each.inputs.includes(table.id));
        const edit = behind && rebindEdit(definition, behind.id, map, []);
        if (!edit) return;
        const after = edited(definition, edit);
        if (!after) return;
        expect(JSON.stringify(after.steps.filter((each) => each.id === behind.id))).not.toContain(`"${map[1]?.from}"`);
        expect(applyEdits(after, invertEdits([edit]))).toEqual(definition);
      }),
    );
  });

  test('a copy with ids of its own reads the same, and shares none', () => {
    fc.assert(
      fc.property(graph, (given) => {
        let minted = 0;
        const copy = withFreshIds(given.definition, () => `own ${++minted}`);
        expect(readDefinition(copy)).toEqual({ definition: copy });
        const ids = (of: Definition) => of.steps.flatMap((each) => [each.id, ...kindOf(each).mints(each)]);
        expect(ids(copy).filter((each) => ids(given.definition).includes(each))).toEqual([]);
        const [own, other] = [checkTrail(copy), checkTrail(given.definition)];
        expect(own.steps.map((each) => each.title)).toEqual(other.steps.map((each) => each.title));
        expect(own.steps.map((each) => each.problems.map(({ code }) => code))).toEqual(
          other.steps.map((each) => each.problems.map(({ code }) => code)),
        );
      }),
    );
  });
});
