import fc from 'fast-check';
import type { CriteriaStep, Definition, Edit, Format, Step, TableStep } from '../src';
import {
  addItem,
  addParameter,
  addStepAfter,
  applyEdits,
  blankCondition,
  editSentence,
  editsBetween,
  editShape,
  invertEdits,
  PLAIN_LAYOUT,
  ProblemError,
  readDefinition,
  rebindEdit,
  removeItem,
  removeParameter,
  removeStepEdit,
  restated,
  setItem,
} from '../src';
import { criteria, definition, ending, minKilos } from './support/harvests';

const wish = { id: 'w', kind: 'figure' as const, text: 'kilos of 2024', figure: '17 204.5', met: false };
const calculated = { id: 'double', name: 'twice', expression: { text: 'kilos * 2', refs: [] } };
const calculation: Step = { id: 'calc', kind: 'calculate', name: '', off: false, inputs: ['c'], fields: [calculated] };
const full: Definition = ending({
  ...definition,
  steps: [...definition.steps, calculation],
  brief: { request: 'Yields by grade', items: [wish] },
  sheet: [{ field: 'kilos', label: 'Kilos' }],
  proof: { ...PLAIN_LAYOUT, levels: [{ field: 'grade', descending: false, subtotal: true }] },
});
const clause = { ...blankCondition(() => 'c-1'), field: 'kilos', operator: 'below', operands: [{ kind: 'value' as const, text: '9' }] };
const criteriaOf = (of: Definition) => of.steps[1] as CriteriaStep;
const [written] = criteriaOf(full).clauses;
if (!written) throw new Error('the dataset of the tests has a clause');

/** One edit of every kind, with what the history says of it. A kind without one does not compile. */
const TOLD: { readonly [K in Edit['kind']]: readonly [Extract<Edit, { kind: K }>, string] } = {
  'set title': [{ kind: 'set title', from: 'Harvests', to: 'Yields' }, 'renamed the dataset to Yields'],
  'add step': [addStepAfter(full, 't', criteria('n', 't', "grade = 'A'")), "added criteria: grade = 'A'"],
  'remove step': [removeStepEdit(full, 'calc') as Edit & { kind: 'remove step' }, 'removed calculate: with twice'],
  'set step': [{ kind: 'set step', step: 'c', property: 'off', from: false, to: true }, 'disabled kilos >= :min_kilos'],
  'move step': [
    { kind: 'move step', step: 'calc', from: { after: 'c', before: null }, to: { after: 'c', before: null } },
    'moved with twice behind kilos >= :min_kilos',
  ],
  'set input': [{ kind: 'set input', step: 'calc', slot: 0, from: 'c', to: 't' }, 'gave with twice harvests as its rows'],
  'set result': [{ kind: 'set result', from: 'calc', to: 'c' }, 'hands over kilos >= :min_kilos'],
  rebind: [
    rebindEdit(full, 'c', [{ from: 'kilos', to: 'grade', name: 'grade' }], []) as Edit & { kind: 'rebind' },
    'replaced kilos by grade',
  ],
  'add item': [addItem(criteriaOf(full), 'clauses', { ...clause, id: 'c-2' }, 1), 'added the clause kilos below 9'],
  'remove item': [removeItem(criteriaOf(full), 'clauses', written), 'removed the clause kilos >= :min_kilos'],
  'set item': [setItem(criteriaOf(full), 'clauses', written, clause), 'changed kilos >= :min_kilos to kilos below 9'],
  'rename field': [{ kind: 'rename field', step: 'calc', field: 'double', from: 'twice', to: 'doubled' }, 'renamed twice to doubled'],
  'set calendar': [
    { kind: 'set calendar', from: full.calendar, to: { ...full.calendar, firstMonthOfYear: 4 } },
    'made years begin in April',
  ],
  'add parameter': [
    addParameter(full, { ...minKilos, id: 'q', name: 'most' }) as Edit & { kind: 'add parameter' },
    'added the parameter :most',
  ],
  'remove parameter': [removeParameter(full, minKilos) as Edit & { kind: 'remove parameter' }, 'removed the parameter :min_kilos'],
  'set parameter': [
    { kind: 'set parameter', parameter: 'p', property: 'hint', from: '', to: 'in kilos' },
    'changed the hint of :min_kilos',
  ],
  'move parameter': [
    { kind: 'move parameter', parameter: 'p', from: { after: null, before: null }, to: { after: null, before: null } },
    'moved :min_kilos to the beginning',
  ],
  'rename parameter': [{ kind: 'rename parameter', parameter: 'p', from: 'min_kilos', to: 'least' }, 'renamed :min_kilos to :least'],
  'set dataset': [{ kind: 'set dataset', property: 'tags', from: [], to: ['yield', 'season'] }, 'tagged it yield, season'],
  'set sheet': [
    { kind: 'set sheet', field: 'kilos', property: 'format', to: { pattern: '#,##0.0', unit: 'kg' } },
    'writes kilos as #,##0.0, in kg',
  ],
  'set request': [{ kind: 'set request', from: 'Yields by grade', to: 'Yields by region' }, 'wrote the request: Yields by region'],
  'add wish': [
    {
      kind: 'add wish',
      item: { id: 'x', kind: 'rows', text: 'one per harvest', figure: '', met: false },
      at: { after: 'w', before: null },
    },
    'asked for rows one per harvest',
  ],
  'remove wish': [
    { kind: 'remove wish', item: wish, at: { after: null, before: null } },
    'no longer asks for the figure kilos of 2024, 17 204.5',
  ],
  'set wish': [{ kind: 'set wish', from: wish, to: { ...wish, met: true } }, 'ticked the figure kilos of 2024, 17 204.5'],
  'set proof': [{ kind: 'set proof', property: 'totals', to: [{ field: 'kilos', aggregate: 'average' }] }, 'totals average of kilos'],
};

describe('every kind of edit', () => {
  test.each(Object.entries(TOLD))('%s says what it did, can be sent, and is taken back exactly', (_kind, [edit, sentence]) => {
    expect(editSentence(edit, full)).toBe(sentence);
    const sent = editShape.parse(JSON.parse(JSON.stringify(edit)));
    const after = applyEdits(full, [sent]);
    if (edit.kind !== 'move parameter' && edit.kind !== 'move step') expect(after).not.toEqual(full);
    expect(applyEdits(after, invertEdits([sent]))).toEqual(full);
  });

  test.each([
    [{ kind: 'set sheet', field: 'kilos', property: 'name', to: 'weight' }, 'hands kilos over as weight'],
    [{ kind: 'set sheet', field: 'kilos', property: 'label', from: 'Kilos' }, 'took the label off kilos'],
    [{ kind: 'set sheet', field: 'kilos', property: 'description', to: 'net' }, 'described kilos'],
    [{ kind: 'set sheet', field: 'kilos', property: 'role', to: 'code' }, 'made kilos a code'],
    [{ kind: 'set sheet', field: 'kilos', property: 'addsUp', to: 'over nothing' }, 'lets kilos add up over nothing'],
    [{ kind: 'set sheet', field: 'kilos', property: 'aggregates', to: ['average'] }, 'allows of kilos: average'],
    [{ kind: 'set sheet', field: 'kilos', property: 'lastBy', to: 'grade' }, 'chose the date that says which kilos is last'],
    [{ kind: 'set sheet', field: 'kilos', property: 'forUseOnly', to: true }, 'keeps kilos for use only'],
    [
      { kind: 'set sheet', field: 'kilos', property: 'format', to: { pattern: '0 ¤', currency: 'EUR' } },
      'writes kilos as 0 ¤, with ¤ as EUR',
    ],
    [{ kind: 'set title', from: 'Harvests', to: '' }, 'named the dataset by what it keeps again'],
    [{ kind: 'set dataset', property: 'description', from: '', to: 'Net yields' }, 'described the dataset: Net yields'],
    [{ kind: 'set dataset', property: 'order', from: [], to: ['kilos', 'id'] }, 'changed the order of the fields that are handed over'],
    [{ kind: 'set proof', property: 'rows', from: true, to: false }, 'shows only groups in the proof'],
    [{ kind: 'set proof', property: 'grandTotal', from: true, to: false }, 'leaves the grand total out'],
    [{ kind: 'set proof', property: 'levels', from: full.proof.levels, to: [] }, 'groups the proof by nothing'],
    [
      { kind: 'set proof', property: 'levels', from: full.proof.levels, to: [{ field: 'grade', descending: false, subtotal: false }] },
      'leaves out subtotals per grade',
    ],
    [
      {
        kind: 'set proof',
        property: 'levels',
        from: full.proof.levels,
        to: [{ field: 'grade', descending: false, subtotal: true, ofSeveral: true }],
      },
      'shows subtotals per grade where there is more than one',
    ],
    [
      {
        kind: 'set proof',
        property: 'marks',
        from: [],
        to: [{ id: 'm', field: 'kilos', operator: 'above', operands: ['9'], look: 'boxed' }],
      },
      'marks kilos where above 9 (boxed)',
    ],
  ] satisfies [Edit, string][])('%j reads “%s”', (edit, sentence) => {
    expect(editSentence(edit, full)).toBe(sentence);
    expect(applyEdits(applyEdits(full, [edit]), invertEdits([edit]))).toEqual(full);
  });
});

test('two changes of one format read differently', () => {
  const format = (from: Format, to: Format) => editSentence({ kind: 'set sheet', field: 'kilos', property: 'format', from, to }, full);
  expect(format({ pattern: '0.0', unit: 'kg' }, { pattern: '0.0', unit: 't' })).toBe('writes kilos in t');
  expect(format({ pattern: '0.0', unit: 'kg' }, { pattern: '0.0' })).toBe('writes kilos without a unit');
  expect(format({ pattern: '0 ¤', currency: 'EUR' }, { pattern: '0 ¤' })).toBe('writes kilos without a currency');
});

/** Edits at random, as far as they still apply to what came before. */
const edited = fc
  .array(fc.constantFrom(...Object.values(TOLD).map(([edit]) => edit), addStepAfter(full, 'c', criteria('m', 'c', 'kilos > 1'))), {
    maxLength: 12,
  })
  .map((edits) => {
    let current = full;
    for (const edit of edits) {
      try {
        current = applyEdits(current, [edit]);
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
      }
    }
    return current;
  });

describe('a wish stated anew', () => {
  const said = (...edits: Edit[]) => applyEdits(full, edits);

  test('sets what somebody else has set meanwhile, removes what was changed, and adds behind what was added', () => {
    const title = (from: string, to: string): Edit => ({ kind: 'set title', from, to });
    const added = (id: string, at: number) => addItem(criteriaOf(full), 'clauses', { ...clause, id }, at);
    const meanwhile = said(title('Harvests', 'Theirs'), setItem(criteriaOf(full), 'clauses', written, clause), added('c-2', 1));
    const mine = [title('Harvests', 'Mine'), removeItem(criteriaOf(full), 'clauses', written), added('c-3', 1)];
    expect(() => applyEdits(meanwhile, mine)).toThrow(ProblemError);
    const after = applyEdits(meanwhile, restated(mine, meanwhile) ?? []);
    expect([after.title, criteriaOf(after).clauses.map((each) => each.id)]).toEqual(['Mine', ['c-2', 'c-3']]);
  });

  test('puts into a list what it was to put there, and leaves what others did to it', () => {
    const taken = (from: readonly string[], to: readonly string[]): Edit => ({ kind: 'set step', step: 't', property: 'taken', from, to });
    const meanwhile = said(taken(['id', 'kilos'], ['id', 'kilos', 'grade']));
    const mine = [taken(['id', 'kilos'], ['kilos'])];
    const after = applyEdits(meanwhile, restated(mine, meanwhile) ?? []);
    expect((after.steps[0] as TableStep).taken).toEqual(['kilos', 'grade']);
  });

  test('is none where its target is gone, or where it moves steps that stand differently now', () => {
    expect(restated([setItem(criteriaOf(full), 'clauses', written, clause)], said(removeItem(criteriaOf(full), 'clauses', written)))).toBe(
      undefined,
    );
    expect(
      restated([removeStepEdit(full, 'c') as Edit], said({ kind: 'set step', step: 'c', property: 'off', from: false, to: true })),
    ).toBe(undefined);
  });

  test('stays as it is wherever it fits, and has its effect wherever it can be stated', () => {
    let stated = 0;
    fc.assert(
      fc.property(edited, fc.constantFrom(...Object.values(TOLD).map(([edit]) => edit)), (now, edit) => {
        const anew = restated([edit], now);
        if (!anew) return;
        stated++;
        const after = applyEdits(now, anew);
        expect(applyEdits(after, invertEdits(anew))).toEqual(now);
        // What it sets stands there afterwards: saying it again changes nothing.
        if (edit.kind.startsWith('set ')) expect(applyEdits(after, restated([edit], after) ?? [])).toEqual(after);
      }),
    );
    expect(stated).toBeGreaterThan(20);
  });
});

describe('the edits between two states', () => {
  test('lead from any to any', () => {
    fc.assert(
      fc.property(edited, edited, (from, to) => {
        const edits = editsBetween(from, to);
        expect(applyEdits(from, edits)).toEqual(to);
        for (const edit of edits) expect(editShape.safeParse(JSON.parse(JSON.stringify(edit))).success).toBe(true);
      }),
    );
  });

  test('of a state and itself are none', () => {
    expect(editsBetween(full, full)).toEqual([]);
  });

  test('name the one step that was put in between, not all that follow', () => {
    const after = applyEdits(full, [addStepAfter(full, 't', criteria('n', 't', "grade = 'A'"))]);
    expect(editsBetween(full, after).map((edit) => edit.kind)).toEqual(['add step']);
    expect(editsBetween(after, full).map((edit) => edit.kind)).toEqual(['remove step']);
  });

  test('exchange two parameters’ names', () => {
    const two = applyEdits(full, [addParameter(full, { ...minKilos, id: 'q', name: 'most' })]);
    const swapped = { ...two, parameters: two.parameters.map((each) => ({ ...each, name: each.name === 'most' ? 'min_kilos' : 'most' })) };
    expect(applyEdits(two, editsBetween(two, swapped)).parameters).toEqual(swapped.parameters);
  });
});

test('a document of an older version is read with nothing said in its sheet, brief and proof', () => {
  const { description: _d, tags: _t, sheet: _s, order: _o, brief: _b, proof: _p, result: _r, ...old } = definition;
  const [{ keys: _k, ...read }, ...others] = old.steps as [TableStep, ...Step[]];
  const before = { ...definition, steps: [{ ...read, keys: [] }, ...others] };
  expect(readDefinition({ ...old, steps: [read, ...others], version: 3 })).toEqual({ definition: before });
});
