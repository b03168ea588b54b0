import type { Catalogue, CheckedOf, ComparedPair, Definition, FieldType, JoinStep, LookupPartner, ReadTable, Step } from '../src';
import {
  applyEdits,
  bringInEdits,
  checkedOf,
  checkedStep,
  checkTrail,
  comparedPair,
  decimal,
  emptyDefinition,
  linkReferences,
  lookupPartner,
  lookupStep,
  NOTHING_KNOWN,
  ofKind,
  pairWords,
  proposedPairs,
  resultStep,
  sheetFields,
  slotPair,
  tableStep,
  withoutValues,
  writtenPair,
} from '../src';

/** Pairs of a join by example: what can meet, what is said where it cannot, and how it reads. */

let minted = 0;
const mint = () => `id${minted++}`;

type Columns = Readonly<Record<string, FieldType>>;

const described = (name: string, columns: Columns, keys: ReadTable['keys'] = []): ReadTable => ({
  schema: 'coop',
  name,
  columns: Object.entries(columns).map(([column, type]) => ({
    name: column,
    sourceType: type.kind,
    type,
    nullable: true,
    looseText: false,
    primaryKey: false,
    foreignKey: false,
    unique: false,
  })),
  keys,
});

const HARVESTS: Columns = {
  id: { kind: 'whole' },
  apiary_code: { kind: 'text' },
  picked_on: { kind: 'date' },
  weighed_at: { kind: 'datetime' },
  kilos: decimal(8, 2),
  note: { kind: 'json' },
};
const APIARIES: Columns = {
  code: { kind: 'text' },
  number: { kind: 'whole' },
  opened_on: { kind: 'date' },
  closed_on: { kind: 'date' },
  seen_at: { kind: 'datetime' },
  id: { kind: 'whole' },
};

/** Two tables brought together by pairs of written sides. */
function joined(
  left: Columns,
  right: Columns,
  pairs: readonly Partial<ComparedPair>[],
  change: Partial<JoinStep> = {},
  keys: ReadTable['keys'] = [],
  own: ReadTable['keys'] = [],
) {
  const first = tableStep(mint, 's', described('harvests', left, own));
  const begun: Definition = {
    ...emptyDefinition('Pairs'),
    steps: [{ ...first, taken: first.fields.map((each) => each.id) }],
    result: first.id,
  };
  const partner = tableStep(mint, 's', described('apiaries', right, keys));
  const { edits, step } = bringInEdits(mint, begun, first.id, { table: partner }, NOTHING_KNOWN);
  const brought = applyEdits(begun, edits);
  const steps = brought.steps.map((each): Step => {
    const join = each.id === step ? ofKind('join', each) : undefined;
    return join ? { ...join, pairs: pairs.map((pair) => comparedPair({ id: mint(), ...pair })), ...change } : each;
  });
  const trail = checkTrail({ ...brought, steps });
  return { trail, join: checkedOf('join', checkedStep(trail, step)) as CheckedOf<'join'> };
}

const text = (written: string) => ({ text: written, refs: [] });
const codes = ({ join }: ReturnType<typeof joined>) => join.problems.filter((each) => each.severity === 'error').map((each) => each.code);

describe('two sides can meet', () => {
  test.each([
    ['texts', 'apiary_code', '=', 'code'],
    ['numbers of different types', 'kilos', '=', 'number'],
    ['days of one kind', 'picked_on', '>=', 'opened_on'],
    ['expressions', 'upper(apiary_code)', '=', "code || ''"],
    ['a day between two others', 'picked_on', 'between', 'opened_on'],
  ] as const)('%s', (_what, left, comparison, right) => {
    const until = comparison === 'between' ? { until: text('closed_on') } : {};
    expect(codes(joined(HARVESTS, APIARIES, [{ left: text(left), comparison, right: text(right), ...until }]))).toEqual([]);
  });
});

describe('what cannot meet is said at its pair, with the way out', () => {
  test.each([
    ['a text and a number', 'apiary_code', 'number', 'pair-number'],
    ['a date and a date-time', 'picked_on', 'seen_at', 'pair-days'],
    ['a number and a date', 'kilos', 'opened_on', 'pair-unlike'],
    ['JSON', 'note', 'code', 'pair-unsuited'],
    ['a side that is missing', 'apiary_code', '', 'pair-unfinished'],
    ['a name that is no field', 'apiary_cod', 'code', 'field-unknown'],
    ['a field of the other side', 'code', 'code', 'field-unknown'],
    ['values over other rows', 'sum(kilos) over ()', 'number', 'other-rows-misplaced'],
  ])('%s', (_what, left, right, code) => {
    const made = joined(HARVESTS, APIARIES, [{ left: text(left), right: text(right) }]);
    const [pair] = made.join.step.pairs;
    const found = made.join.problems.filter((each) => each.severity === 'error');
    expect(found).toHaveLength(1);
    expect(found[0]?.place).toMatchObject({ step: made.join.step.id, clause: pair?.id });
    expect(found[0]?.code).toBe(code);
    expect(made.join.blocked).toBe(true);
  });

  test('a text meets a number once it is read as one on purpose, and numbers overlook nothing', () => {
    const pair = { left: text('apiary_code'), right: text('number') };
    expect(codes(joined(HARVESTS, APIARIES, [{ ...pair, overlooks: ['number'] }]))).toEqual([]);
    expect(codes(joined(HARVESTS, APIARIES, [{ left: text('id'), right: text('number'), overlooks: ['case'] }]))).toEqual([
      'pair-overlooks',
    ]);
  });

  test('a join without a pair, one that keeps nothing, and one partner by no order', () => {
    const pair = { left: text('apiary_code'), right: text('code') };
    expect(codes(joined(HARVESTS, APIARIES, []))).toEqual(['pairs-missing']);
    expect(codes(joined(HARVESTS, APIARIES, [], { everyPair: true }))).toEqual([]);
    expect(codes(joined(HARVESTS, APIARIES, [pair], { keeps: { met: false, left: false, right: false } }))).toEqual(['nothing-kept']);
    expect(codes(joined(HARVESTS, APIARIES, [pair], { one: [] }))).toEqual(['order-missing']);
    expect(codes(joined(HARVESTS, APIARIES, [pair], { one: [{ field: 'gone', descending: false }] }))).toEqual(['field-gone']);
  });
});

describe('a pair and its written form', () => {
  const names = (columns: Columns) => ({
    schema: {
      fields: Object.entries(columns).map(([name, type]) => ({
        id: `f-${name}`,
        name,
        type,
        role: 'attribute' as const,
        origin: { step: 't', column: name },
        forUseOnly: false,
      })),
    },
    parameters: [],
  });
  const [left, right] = [
    names({ apiary_code: { kind: 'text' }, picked_on: { kind: 'date' } }),
    names({ code: { kind: 'text' }, opened_on: { kind: 'date' }, closed_on: { kind: 'date' } }),
  ];
  const both = { schema: { fields: [...left.schema.fields, ...right.schema.fields] }, parameters: [] };

  test.each(['=', '<', '<=', '>', '>='] as const)('%s comes back as slots', (comparison) => {
    const pair = comparedPair({ id: 'p', left: linkReferences('picked_on', left), comparison, right: linkReferences('opened_on', right) });
    const written = writtenPair(pair, both);
    expect(written).toMatchObject({ kind: 'written', expression: { text: `picked_on ${comparison} opened_on` } });
    expect(written?.kind === 'written' && slotPair(written, left, right)).toEqual(pair);
  });

  test('a day between two others comes back, and sides that stand the other way round are turned', () => {
    const pair = comparedPair({
      id: 'p',
      left: linkReferences('picked_on', left),
      comparison: 'between',
      right: linkReferences('opened_on', right),
      until: linkReferences('closed_on', right),
    });
    const written = writtenPair(pair, both);
    expect(written?.kind === 'written' && slotPair(written, left, right)).toEqual(pair);
    const turned = slotPair({ id: 'p', kind: 'written', expression: linkReferences('opened_on < picked_on', both) }, left, right);
    expect(turned).toMatchObject({ left: { text: 'picked_on' }, comparison: '>', right: { text: 'opened_on' } });
  });

  test('what is overlooked is not lost in writing, and a condition of another shape stays written', () => {
    const pair = comparedPair({
      id: 'p',
      left: linkReferences('apiary_code', left),
      right: linkReferences('code', right),
      overlooks: ['case'],
    });
    expect(writtenPair(pair, both)).toBeUndefined();
    const other = { id: 'p', kind: 'written' as const, expression: linkReferences('apiary_code = code or code is null', both) };
    expect(slotPair(other, left, right)).toBeUndefined();
  });

  test('reads as a sentence that says all of it', () => {
    expect(pairWords(comparedPair({ id: 'p', left: text('apiary_code'), right: text('code'), overlooks: ['blanks', 'case'] }))).toBe(
      'apiary_code equals code (whatever blanks around it and upper and lower case)',
    );
    const open = {
      left: text('picked_on'),
      comparison: 'between' as const,
      right: text('valid_from'),
      until: text('valid_until'),
      nullsMeet: true,
    };
    expect(pairWords(comparedPair({ id: 'p', ...open }))).toBe(
      'picked_on lies between valid_from and valid_until (open where an end is null)',
    );
  });
});

test('two tables of two hundred columns, all of which clash, get names of their own at once', () => {
  const wide = Object.fromEntries(Array.from({ length: 200 }, (_each, at) => [`c${at}`, { kind: 'whole' } as const]));
  const made = joined(wide, wide, [{ left: text('c0'), right: text('apiaries_c0') }]);
  expect(codes(made)).toEqual([]);
  expect(new Set(made.join.schema.fields.map((each) => each.name)).size).toBe(400);
});

test('five thousand names that clash are told apart', () => {
  const many = Object.fromEntries(Array.from({ length: 2_000 }, (_each, at) => [`c${at}`, { kind: 'whole' } as const]));
  const { c0: _, ...fewer } = many;
  const made = joined(many, { ...fewer, apiaries_c1: { kind: 'whole' } }, [{ left: text('c0'), right: text('apiaries_c2') }]);
  const { trail, join } = made;
  expect(codes(made)).toEqual([]);
  const partner = tableStep(mint, 's', described('apiaries', many));
  const again = bringInEdits(mint, trail.definition, join.step.id, { table: partner }, NOTHING_KNOWN);
  const twice = checkTrail(applyEdits(trail.definition, again.edits));
  const names = checkedStep(twice, again.step)?.schema.fields.map((each) => each.name) ?? [];
  expect(names.length).toBeGreaterThan(5_000);
  expect(new Set(names).size).toBe(names.length);
});

test('a key of the other side keeps the grain, and what asks for less says that rows may be multiplied', () => {
  const unique = [{ columns: ['code'], primary: true }];
  const pair = { left: text('apiary_code'), right: text('code') };
  const keyed = joined(HARVESTS, APIARIES, [pair], {}, unique);
  expect([keyed.join.grain.row, keyed.join.problems.map((each) => each.code)]).toEqual(['row of harvests', []]);
  const loose = joined(HARVESTS, APIARIES, [pair]);
  expect([loose.join.grain.row, loose.join.problems.map((each) => each.code)]).toEqual([
    'row of harvests and row of apiaries',
    ['join-multiplies'],
  ]);
  const several = joined(HARVESTS, APIARIES, [pair], {}, [], [{ columns: ['apiary_code'], primary: true }]);
  expect(several.join.problems.map((each) => each.message)).toEqual([
    'No key tells that a row of harvests meets one row of apiaries at most: from here on one row is a row of harvests and a row of apiaries.',
  ]);
  expect(joined(HARVESTS, APIARIES, [pair], { keeps: { met: false, left: true, right: false } }).join.problems).toEqual([]);
  // What is overlooked may make several of one key.
  expect(joined(HARVESTS, APIARIES, [{ ...pair, overlooks: ['case'] }], {}, unique).join.checked.many.left).toBe(true);
  expect(joined(HARVESTS, APIARIES, [pair], { accepted: 'meant' }).join.problems).toEqual([]);
});

test('proposes a unique field of the other side and names alike, and never measures, days or other types', () => {
  const { trail, join } = joined(HARVESTS, APIARIES, [], {}, [{ columns: ['code'], primary: true }]);
  const found = proposedPairs(trail, { step: join.step.id });
  const nameOf = (id: string) => join.schema.fields.find((each) => each.id === id)?.name;
  const told = found.map(({ pairs }) => pairs.map((each) => `${nameOf(each.left)}=${nameOf(each.right)}`).join());
  expect(told[0]).toBe('apiary_code=code');
  expect(told.some((each) => each.includes('kilos') || each.includes('_on'))).toBe(false);
  expect(found[0]?.words).toBe('code is unique, alike in name');
});

describe('a lookup', () => {
  function looked(change: (partner: LookupPartner) => LookupPartner) {
    const first = tableStep(mint, 's', described('harvests', HARVESTS));
    const other = tableStep(mint, 's', described('apiaries', APIARIES));
    const trail = checkTrail({ ...emptyDefinition(''), steps: [first, other], result: first.id });
    const [left, right] = [checkedStep(trail, first.id), checkedStep(trail, other.id)];
    if (!left || !right) throw new Error('both are there');
    const partner = change(lookupPartner(mint, [left, right], 'apiaries'));
    const step = { ...lookupStep(mint, first.id), inputs: [first.id, other.id], partners: [partner] };
    const whole = checkTrail({ ...trail.definition, steps: [first, other, step], result: step.id });
    return checkedOf('lookup', resultStep(whole)) as CheckedOf<'lookup'>;
  }
  const pair = comparedPair({ id: 'p', left: text('apiary_code'), right: text('code') });

  test('is refused where no key tells that one is found, at its partner, and runs once an order chooses one', () => {
    const refused = looked((partner) => ({ ...partner, pairs: [pair] }));
    expect(refused.problems).toMatchObject([{ code: 'lookup-several', place: { item: refused.step.partners[0]?.id } }]);
    expect(refused.blocked).toBe(true);
    const chosen = looked((partner) => ({ ...partner, pairs: [pair], one: [{ field: partner.fields[0]?.id ?? '', descending: false }] }));
    expect([chosen.problems, chosen.blocked, chosen.grain.row]).toEqual([[], false, 'row of harvests']);
  });
});

test('values typed into pairs are not shown to those who lack the source; fields are', () => {
  const { trail, join } = joined(HARVESTS, APIARIES, [{ left: text("apiary_code || 'secret'"), right: { text: 'code', refs: [] } }], {
    accepted: 'a secret reason',
  });
  const linked = join.step.fields.find((each) => each.name === 'code');
  const plain = {
    ...join.step,
    pairs: join.step.pairs.map((each) =>
      each.kind === 'compared'
        ? { ...each, right: { text: 'code', refs: [{ kind: 'field' as const, id: linked?.id ?? '', from: 0, to: 4 }] } }
        : each,
    ),
  };
  const shown = withoutValues({ ...trail.definition, steps: trail.definition.steps.map((each) => (each.id === plain.id ? plain : each)) });
  expect(JSON.stringify(shown)).not.toContain('secret');
  expect(JSON.stringify(shown)).toContain('"text":"code"');
});

test('what a summary makes that does not add up again is offered no sum', () => {
  const first = tableStep(mint, 's', described('harvests', HARVESTS));
  const value = (aggregate: 'sum' | 'average' | 'rows' | 'median' | 'distinct count') => ({
    id: aggregate,
    name: aggregate.replace(' ', '_'),
    aggregate,
    expression: text(aggregate === 'rows' ? '' : 'kilos'),
    among: text(''),
    order: text(''),
  });
  const step = {
    id: 'k',
    kind: 'summarise' as const,
    name: '',
    off: false,
    inputs: [first.id],
    keys: [],
    values: (['sum', 'average', 'rows', 'median', 'distinct count'] as const).map(value),
  };
  const trail = checkTrail({ ...emptyDefinition(''), steps: [first, step], result: 'k' });
  const fields = sheetFields(resultStep(trail)?.schema ?? { fields: [] }, [], []);
  expect(fields.map((each) => [each.name, each.aggregates.includes('sum')])).toEqual([
    ['sum', true],
    ['average', false],
    ['rows', true],
    ['median', false],
    ['distinct_count', false],
  ]);
});

test('a column that a join meets by or hands on is missed where it is gone, whether it is taken there or not', () => {
  const bare = joined(HARVESTS, APIARIES, [{ left: text('apiary_code'), right: text('code') }]);
  const right = { schema: { fields: bare.join.step.fields.map((each) => ({ ...each, type: APIARIES.code })) as never }, parameters: [] };
  const trail = checkTrail({
    ...bare.trail.definition,
    steps: bare.trail.definition.steps.map((each) => {
      const join = ofKind('join', each);
      return join ? { ...join, pairs: join.pairs.map((pair) => ({ ...pair, right: linkReferences('code', right) })) } : each;
    }) as readonly Step[],
  });
  const table = trail.definition.steps.find((each) => each.kind === 'table' && each.table === 'apiaries');
  const without = (gone: string) => {
    const catalogue = ((of: { readonly table: string }) => {
      const columns = described(of.table, of.table === 'apiaries' ? APIARIES : HARVESTS).columns;
      return { columns: columns.filter((each) => of.table !== 'apiaries' || each.name !== gone), keys: [], relations: [] };
    }) as unknown as Catalogue;
    const checked = checkTrail(trail.definition, catalogue);
    const own = checked.steps.find((each) => each.step.id === table?.id);
    return [own?.problems.map((each) => [each.code, each.severity]), checked.steps.at(-1)?.blocked];
  };
  expect(without('code')).toEqual([[['column-gone', 'error']], true]);
  expect(without('number')).toEqual([[['column-gone', 'hint']], false]);
});
