import type { Layout, Level, ReadLine } from '../src';
import {
  acrossText,
  checkTrail,
  date,
  editSentence,
  fittingLayout,
  fixesOf,
  foundPlaces,
  keyColumn,
  layoutProblems,
  layoutShape,
  layoutWithIds,
  LINE,
  LINE_KINDS,
  lineLink,
  lineReader,
  lineWords,
  PLAIN_LAYOUT,
  proofTable,
  sheetFields,
  text,
  whole,
  withFollowed,
} from '../src';
import { handed as field } from './support/fields';
import { definition } from './support/harvests';

/** What the groups of a proof are called by, and what is told once at their head. */

const fields = sheetFields(
  {
    fields: [
      field('member', whole, 'key'),
      field('name', text, 'attribute'),
      field('region', text, 'attribute'),
      field('since', date, 'date'),
      field('kilos', whole, 'measure'),
    ],
  },
  [],
  [],
);
const level = (given: Partial<Level> = {}): Level => ({ field: 'member', descending: false, subtotal: true, ...given });
const layout = (given: Partial<Level>, of: Partial<Layout> = {}): Layout => ({ ...PLAIN_LAYOUT, ...of, levels: [level(given)] });

function lineOf(of: Layout, cells: Readonly<Record<string, string | null>>): { readonly line: ReadLine; readonly words: string } {
  const fitting = fittingLayout(of, fields);
  const columns = Object.keys(cells).map((id) => ({ id }));
  const line = lineReader({ columns }, fitting)(['0', ...Object.values(cells)]);
  return { line, words: lineWords(line, proofTable(fitting, fields)) };
}

const header = { [LINE.kind]: String(LINE_KINDS.indexOf('header')), [LINE.level]: '1', [keyColumn(1)]: '1012' };
const totals = { ...header, [LINE.kind]: String(LINE_KINDS.indexOf('totals')) };

describe('groups that are shown by another field', () => {
  test('are called by its value, and by their own where it has none', () => {
    expect(lineOf(layout({ shown: 'name' }), { ...header, shown_1: 'Ada Brook' }).words).toBe('Name: Ada Brook');
    expect(lineOf(layout({ shown: 'name' }), { ...header, shown_1: null }).words).toBe('Member: 1012');
    expect(lineOf(layout({ shown: 'name' }), { ...header, shown_1: '' }).words).toBe('Name: empty text');
    expect(lineOf(layout({}), header).words).toBe('Member: 1012');
  });

  test('leave no column of their own: their name stands for them', () => {
    const { columns } = proofTable(fittingLayout(layout({ shown: 'name' }), fields), fields);
    expect(columns.map((each) => each.header)).toEqual(['Region', 'Since', 'Kilos']);
  });

  test('are called so across as well, the rest together by nothing but that', () => {
    const across = { levels: [level({ shown: 'name', first: 1 })], total: false };
    const places = foundPlaces(across, [
      ['1012', 'false', 'Ada Brook', '1'],
      [null, 'true', null, '1'],
    ]);
    expect(places).toEqual([[{ value: '1012', shown: 'Ada Brook' }], [{ value: null, rest: true }]]);
    expect(places.flatMap((each) => each.map((key) => acrossText(key, across.levels[0], fields)))).toEqual([
      'Ada Brook',
      'the rest together',
    ]);
  });

  test('are shown by their values where the field is gone, which is told and mended, and in stretches of days', () => {
    const gone = layout({ shown: 'phone' });
    expect(fittingLayout(gone, fields).levels[0]?.shown).toBeUndefined();
    expect(layoutProblems(gone, fields).map(({ code, place }) => [code, place.field])).toEqual([['proof-field-gone', 'phone']]);
    expect(fittingLayout(layout({ field: 'since', stretch: 'year', shown: 'name' }), fields).levels[0]?.shown).toBeUndefined();
    expect(fittingLayout(layout({ shown: 'member' }), fields).levels[0]?.shown).toBeUndefined();
  });
});

describe('fields at the head of a group', () => {
  const two = layout({ heads: ['region', 'since'] });

  test('stand behind its name, in their formats; one of several values says so, and one without any says nothing', () => {
    const cells = { ...header, head_1_0: 'North', several_1_0: 'false', head_1_1: null, several_1_1: 'true' };
    expect(lineOf(two, cells).words).toBe('Member: 1012 · Region: North · several of Since');
    expect(lineOf(two, { ...cells, several_1_1: 'false' }).words).toBe('Member: 1012 · Region: North');
  });

  test('are none of the rest together, which is no group of one value', () => {
    const cells = { ...header, [keyColumn(1)]: null, rest_1: 'true', head_1_0: null, several_1_0: 'true' };
    expect(lineOf(layout({ heads: ['region'], first: 2 }), cells).words).toBe('Member: the rest together');
  });

  test('stand on totals only where no header comes before', () => {
    const cells = { ...totals, head_1_0: 'North', several_1_0: 'false' };
    const one = layout({ heads: ['region'] });
    expect(lineOf(one, cells).words).toBe('1012, sum');
    expect(lineOf({ ...one, rows: false }, cells).words).toBe('1012 · Region: North, sum');
  });

  test('are told once, so they have no column; a total keeps its own', () => {
    const shown = (of: Layout) => proofTable(fittingLayout(of, fields), fields).columns.map(({ field: { id } }) => id);
    expect(shown(two)).toEqual(['name', 'kilos']);
    expect(shown(layout({ heads: ['kilos'] }, { totals: [{ field: 'kilos', aggregate: 'sum' }] }))).toContain('kilos');
  });

  test('are none of a level across, and none that is gone or what the group is told by', () => {
    const across = { levels: [level({ heads: ['region'] })], total: true };
    expect(
      fittingLayout({ ...PLAIN_LAYOUT, levels: [level({ field: 'region' })], across }, fields).across?.levels[0]?.heads,
    ).toBeUndefined();
    const some = layout({ shown: 'name', heads: ['name', 'member', 'phone', 'region'] });
    expect(fittingLayout(some, fields).levels[0]?.heads).toEqual(['region']);
    expect(layoutProblems(some, fields).map(({ code, place }) => [code, place.field])).toEqual([['proof-field-gone', 'phone']]);
  });
});

describe('where rows lead to', () => {
  const RECORDS = 'https://records.example/';
  const leading: Layout = { ...PLAIN_LAYOUT, link: `${RECORDS}members/{member}` };

  test('is an address made of the row; one that lacks a value leads nowhere, and so do groups', () => {
    const fitting = fittingLayout({ ...leading, levels: [level({ field: 'region' })] }, fields);
    const table = proofTable(fitting, fields);
    const read = (kind: (typeof LINE_KINDS)[number], member: string | null) =>
      lineReader(
        { columns: [{ id: LINE.kind }, { id: LINE.level }, { id: 'member' }] },
        fitting,
      )(['0', String(LINE_KINDS.indexOf(kind)), '1', member]);
    expect(lineLink(read('row', '10/12'), table)).toBe(`${RECORDS}members/10%2F12`);
    expect(lineLink(read('row', null), table)).toBeUndefined();
    expect(lineLink(read('totals', '1012'), table)).toBeUndefined();
  });

  test('is left out where one of its fields is gone, which is told, or no steward allows it', () => {
    const gone: Layout = { ...leading, link: `${RECORDS}{phone}` };
    expect(fittingLayout(gone, fields).link).toBeUndefined();
    expect(layoutProblems(gone, fields).map(({ code, severity }) => [code, severity])).toEqual([['link-field-unknown', 'warning']]);
    expect(withFollowed(leading, fields, [RECORDS]).layout.link).toBe(leading.link);
    expect(withFollowed(leading, fields, ['https://other.example/']).layout.link).toBeUndefined();
  });

  test('goes with a copy, and is told in the history', () => {
    expect(layoutWithIds(leading, (id) => `new ${id}`).link).toBe(`${RECORDS}members/{new member}`);
    expect(editSentence({ kind: 'set proof', property: 'link', from: undefined, to: leading.link }, definition)).toContain(
      'lets rows of the proof lead to an address',
    );
  });
});

test('both are kept by ids that go with a copy', () => {
  const kept = layout({ shown: 'name', heads: ['region'] });
  expect(layoutWithIds(kept, (id) => `new ${id}`).levels).toMatchObject([{ shown: 'new name', heads: ['new region'] }]);
  expect(layoutShape.safeParse(kept).success).toBe(true);
  expect(layoutShape.safeParse(layout({ heads: [] })).success).toBe(false);
});

test('a field that is gone is taken out of both', () => {
  const own = definition.sheet[0]?.field ?? checkTrail(definition).steps[0]?.schema.fields[0]?.id ?? '';
  const proof = layout({ field: own, shown: 'phone', heads: ['phone', 'region'] });
  const trail = checkTrail({ ...definition, proof });
  const found = { code: 'proof-field-gone', severity: 'warning', message: '', place: { field: 'phone' } } as const;
  expect(fixesOf(found, trail, new Map() as never)).toEqual([
    {
      says: 'Take it out of the proof',
      edits: [{ kind: 'set proof', property: 'levels', from: proof.levels, to: [level({ field: own, heads: ['region'] })] }],
    },
  ]);
});

test('levels that lie in one another the other way round are exchanged, down and across', () => {
  const [own, next] = [level({ field: 'id' }), level({ field: 'grade' })];
  const mended = (proof: Layout) =>
    fixesOf(
      { code: 'levels-nested', severity: 'hint', message: '', place: { field: 'id' } },
      checkTrail({ ...definition, proof }),
      new Map() as never,
    ).flatMap((each) => each.edits);
  const down = { ...PLAIN_LAYOUT, levels: [level({ field: 'kilos' }), own, next] };
  expect(mended(down)).toMatchObject([{ property: 'levels', to: [level({ field: 'kilos' }), next, own] }]);
  const across = { levels: [own, next], total: true };
  expect(mended({ ...PLAIN_LAYOUT, across })).toMatchObject([
    { property: 'across', from: across, to: { levels: [next, own], total: true } },
  ]);
});

test('what is changed of them is told', () => {
  const own = (given: Partial<Level>) => level({ field: 'id', ...given });
  const said = (from: Partial<Level>, to: Partial<Level>) =>
    editSentence({ kind: 'set proof', property: 'levels', from: [own(from)], to: [own(to)] }, definition);
  expect(said({}, { shown: 'grade' })).toContain('shows id by grade');
  expect(said({ shown: 'grade' }, {})).toContain('shows id by its values');
  expect(said({}, { heads: ['grade', 'kilos'] })).toContain('has grade and kilos at the head of the groups of id');
  expect(said({ heads: ['grade'] }, {})).toContain('has nothing else at the head of the groups of id');
});
