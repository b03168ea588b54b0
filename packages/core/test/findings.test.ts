import type { Catalogue, CatalogueColumn, Definition, Edit, Problem, SheetEntry, Step, TableStep } from '../src';
import { applyEdits, checkTrail, date, decimal, fixesOf, invertEdits, PLAIN_LAYOUT, text, whyOf } from '../src';
import { definition, ending, minKilos, table } from './support/harvests';

/** Findings are mended from their place: whatever a fix offers takes its finding away and can be undone. */

const harvests = table as TableStep;
const pickedOn = { id: 'picked', column: 'picked_on', sourceType: 'date', type: date, role: 'date', looseText: false } as const;
const plain: Definition = ending({ ...definition, steps: [harvests, ...definition.steps.slice(1)] });
const withSheet = (...sheet: readonly SheetEntry[]): Definition => ({ ...plain, sheet });
const withTable = (change: Partial<TableStep>): Definition =>
  ending({ ...plain, steps: [{ ...harvests, ...change }, ...plain.steps.slice(1)] });
const calculating = (written: string): Definition =>
  ending({
    ...plain,
    steps: [
      ...plain.steps,
      {
        id: 'k',
        kind: 'calculate',
        name: '',
        off: false,
        inputs: ['c'],
        fields: [{ id: 'net', name: 'net', expression: { text: written, refs: [] } }],
      } satisfies Step,
    ],
  });

const TYPES = harvests.fields.map(({ column, sourceType, type }): CatalogueColumn => ({
  name: column,
  sourceType,
  type,
  nullable: false,
  looseText: false,
}));
const knowing = (...columns: readonly CatalogueColumn[]): Catalogue =>
  (() => ({ columns, keys: [], relations: [] })) as unknown as Catalogue;
const usual = knowing(...TYPES);

const found = (given: Definition, code: string, catalogue: Catalogue = usual): Problem => {
  const { problems } = checkTrail(given, catalogue);
  const first = problems.find((each) => each.code === code);
  if (!first) throw new Error(`there is no ${code}, only ${problems.map((each) => each.code).join(', ')}`);
  return first;
};

const MENDED: readonly [code: string, given: Definition, says: string, catalogue?: Catalogue][] = [
  ['name-unsafe', withSheet({ field: 'kilos', name: 'Kilos & more' }), 'Hand it over as Kilos_more'],
  ['name-reserved', withSheet({ field: 'kilos', name: 'select' }), 'Hand it over as select_value'],
  ['name-twice', withSheet({ field: 'kilos', name: 'ID' }), 'Hand it over as id_2'],
  ['format-unsuited', withSheet({ field: 'kilos', format: { pattern: 'd MMMM yyyy' } }), 'Write it as usual'],
  [
    'last-by-missing',
    {
      ...withTable({ fields: [...harvests.fields, pickedOn], taken: ['id', 'kilos', 'picked'] }),
      sheet: [{ field: 'kilos', addsUp: 'over everything but dates, then last' }],
    },
    'The last by picked_on',
    knowing(...TYPES, { name: 'picked_on', sourceType: 'date', type: date, nullable: true, looseText: false }),
  ],
  [
    'proof-field-gone',
    { ...plain, proof: { ...PLAIN_LAYOUT, levels: [{ field: 'gone', descending: false, subtotal: true }] } },
    'Take it out of the proof',
  ],
  [
    'proof-field-gone',
    {
      ...plain,
      proof: {
        ...PLAIN_LAYOUT,
        totals: [{ field: 'gone', aggregate: 'sum' }],
        marks: [{ id: 'm', field: 'gone', operator: 'has a value', operands: [], look: 'strong' }],
      },
    },
    'Take it out of the proof',
  ],
  ['total-unsuited', { ...plain, proof: { ...PLAIN_LAYOUT, totals: [{ field: 'id', aggregate: 'sum' }] } }, 'Take it out of the proof'],
  ['parameter-unused', ending({ ...plain, steps: [harvests] }), 'Remove :min_kilos'],
  ['column-gone', plain, 'Leave the field out', knowing(...TYPES.filter((each) => each.name !== 'kilos'))],
  [
    'column-retyped',
    plain,
    'Take the new type over',
    knowing(...TYPES.map((each) => (each.name === 'kilos' ? { ...each, sourceType: 'numeric(10,3)', type: decimal(10, 3) } : each))),
  ],
  ['field-unknown', calculating('kilo * 2'), 'Write kilos'],
];

describe('a finding', () => {
  test.each(MENDED.map(([code, given, says, catalogue = usual]) => ({ code, given, says, catalogue })))(
    '$code is gone after its fix, and there again after undo',
    ({ code, given, says, catalogue }) => {
      const finding = found(given, code, catalogue);
      const fixes = fixesOf(finding, checkTrail(given, catalogue), catalogue);
      expect(fixes.map((each) => each.says)).toContain(says);
      const edits = fixes.find((each) => each.says === says)?.edits ?? [];
      const mended = applyEdits(given, edits);
      expect(checkTrail(mended, catalogue).problems).not.toContainEqual(finding);
      expect(applyEdits(mended, invertEdits(edits) as Edit[])).toEqual(given);
    },
  );

  test('of a total that is not allowed leaves the totals of the field that are', () => {
    const totals = [
      { field: 'id', aggregate: 'sum' },
      { field: 'id', aggregate: 'distinct count' },
      { field: 'kilos', aggregate: 'sum' },
    ] as const;
    const given: Definition = { ...plain, proof: { ...PLAIN_LAYOUT, totals } };
    const [fix] = fixesOf(found(given, 'total-unsuited'), checkTrail(given), usual);
    expect(applyEdits(given, fix?.edits ?? []).proof.totals).toEqual(totals.slice(1));
  });

  test('that only a person can mend offers nothing', () => {
    const gone: Catalogue = () => 'gone';
    expect(fixesOf(found(plain, 'table-gone', gone), checkTrail(plain, gone), gone)).toEqual([]);
  });

  test('whose target is gone meanwhile offers nothing', () => {
    const unused = found(ending({ ...plain, steps: [harvests] }), 'parameter-unused');
    const without: Definition = ending({ ...plain, steps: [harvests], parameters: [] });
    expect(fixesOf(unused, checkTrail(without), usual)).toEqual([]);
    const renamed = found(withSheet({ field: 'kilos', name: 'select' }), 'name-reserved');
    expect(fixesOf({ ...renamed, place: { field: 'nowhere' } }, checkTrail(plain), usual)).toEqual([]);
  });

  test('of a retyped column keeps what was said of its field', () => {
    const catalogue = knowing(...TYPES.map((each) => (each.name === 'kilos' ? { ...each, sourceType: 'text', type: text } : each)));
    const given = withSheet({ field: 'kilos', label: 'Net weight' });
    const [fix] = fixesOf(found(given, 'column-retyped', catalogue), checkTrail(given, catalogue), catalogue);
    const mended = applyEdits(given, fix?.edits ?? []);
    expect((mended.steps[0] as TableStep).fields[1]).toMatchObject({ id: 'kilos', type: text, sourceType: 'text', role: 'measure' });
    expect(mended.sheet).toEqual(given.sheet);
  });

  test('says why it matters: by its code, or else by how bad it is', () => {
    for (const [code] of MENDED) expect(whyOf({ code, severity: 'hint' })).not.toMatch(/^It runs as it is/);
    const told = (['error', 'warning', 'hint'] as const).map((severity) => whyOf({ code: 'something-new', severity }));
    expect(new Set(told).size).toBe(3);
  });

  test('of two parameters of one type names the one that is unused', () => {
    const given: Definition = { ...plain, parameters: [minKilos, { ...minKilos, id: 'q', name: 'most_kilos' }] };
    const [fix] = fixesOf(found(given, 'parameter-unused'), checkTrail(given), usual);
    expect(fix?.says).toBe('Remove :most_kilos');
    expect(applyEdits(given, fix?.edits ?? []).parameters).toEqual([minKilos]);
  });
});
