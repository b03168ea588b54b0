import { mintId } from '../datasets';
import type { DemoDataset, DemoStep } from './demo-dataset';
import { asks, parameter, PLAIN } from './demo-dataset';

/** The parameter thin seasons are marked by. */
const THIN = mintId();

const HARVEST = { row: 'harvest', rows: 'harvests' };

/** Codes that are written differently are matched; harvests of no apiary are left out. */
const atItsApiary = (...taken: readonly string[]): DemoStep => ({
  kind: 'join',
  table: 'apiaries',
  called: { row: 'apiary', rows: 'apiaries' },
  pairs: [{ left: 'apiary_code', right: 'code', overlooks: ['blanks', 'case'] }],
  accepted: 'codes differ in more than blanks and case',
  keeps: { met: true, left: false, right: false },
  taken,
});

const inItsDistrict = (...taken: readonly string[]): DemoStep => ({
  kind: 'join',
  table: 'districts',
  called: { row: 'district', rows: 'districts' },
  pairs: [{ left: 'district_code', right: 'districts_code' }],
  keeps: { met: true, left: false, right: false },
  taken,
});

/** Datasets that are stacked, turned, summed up and arranged. */
export const SUMMED_DATASETS: readonly DemoDataset[] = [
  {
    title: 'Deliveries and advances in one list',
    table: 'deliveries',
    called: { row: 'delivery', rows: 'deliveries' },
    taken: ['id', 'delivered_on', 'kilos', 'buyer_code'],
    steps: () => [
      {
        kind: 'union',
        table: 'advances',
        called: { row: 'advance', rows: 'advances' },
        taken: ['id', 'member_id', 'paid_on', 'amount'],
        fields: [
          ['number', 'id', 'id'],
          ['day', 'delivered_on', 'paid_on'],
          ['kilos', 'kilos', null],
          ['amount', null, 'amount'],
          ['buyer_code', 'buyer_code', null],
          ['member_id', null, 'member_id'],
        ],
        source: ['came_from', 'delivery', 'advance'],
      },
      {
        kind: 'arrange',
        sort: [
          ['day', 'ascending'],
          ['came_from', 'ascending'],
          ['number', 'ascending'],
        ],
      },
    ],
    says: () => ({ description: 'What members brought and what they were paid in advance, by day; a field says which a row is.' }),
  },
  {
    title: 'Harvests by region and by floral source',
    table: 'harvests',
    called: HARVEST,
    taken: ['id', 'apiary_code', 'picked_on', 'kilos', 'floral_source'],
    steps: () => [
      atItsApiary('district_code'),
      inItsDistrict('region_code'),
      {
        kind: 'unpivot',
        label: 'grouping',
        value: 'value',
        lines: [
          ['region', 'region_code'],
          ['floral source', 'floral_source'],
        ],
      },
      {
        kind: 'summarise',
        keys: [
          ['grouping', 'grouping'],
          ['value', 'value'],
        ],
        values: [
          ['kilos', 'sum', 'kilos'],
          ['harvests', 'rows', ''],
        ],
      },
      {
        kind: 'arrange',
        sort: [
          ['grouping', 'ascending'],
          ['kilos', 'descending'],
        ],
      },
    ],
    says: () => ({
      description:
        'Each harvest stands in two groups, its region and its floral source, and is counted in both; kilos add up within one grouping.',
    }),
  },
  {
    title: 'Yield per apiary and month',
    table: 'harvests',
    called: HARVEST,
    taken: ['apiary_code', 'picked_on', 'kilos', 'moisture'],
    parameters: () => [{ ...PLAIN, id: 'picked', name: 'picked', type: 'date', takes: 'range', startsAs: ['2025-04-01', '2025-09-30'] }],
    steps: (field) => [
      { kind: 'criteria', clauses: [asks(field('picked_on'), 'within', parameter('picked'))] },
      atItsApiary('code', 'name'),
      {
        kind: 'summarise',
        keys: [
          ['apiary', 'name'],
          ['month', 'start_of_month(picked_on)'],
        ],
        values: [
          ['kilos', 'sum', 'kilos'],
          ['average_moisture', 'average', 'moisture'],
          ['harvests', 'rows', ''],
        ],
        everyDay: { key: 'month', parameter: 'picked' },
      },
      {
        kind: 'arrange',
        sort: [
          ['apiary', 'ascending'],
          ['month', 'ascending'],
        ],
      },
    ],
    says: () => ({
      description:
        'One row per apiary and month of the span, also for months without a harvest; codes that are written differently are matched.',
    }),
  },
  {
    title: 'Yield by region, season by season',
    table: 'harvests',
    called: HARVEST,
    taken: ['id', 'apiary_code', 'picked_on', 'kilos', 'moisture', 'floral_source'],
    steps: () => [
      atItsApiary('district_code'),
      inItsDistrict('region_code'),
      { kind: 'calculate', fields: [['season', 'extract(year from picked_on)']] },
    ],
    says: () => ({
      description:
        'Regions and floral sources down, seasons across: read it as a proof, in which thin seasons are marked by a parameter. Harvests whose apiary is missing are left out.',
    }),
    parameters: () => [
      {
        id: THIN,
        name: 'thin',
        type: 'decimal',
        takes: 'one',
        leftBlank: 'condition is off',
        startsAs: ['1000'],
        hint: 'kilos of a thin season',
      },
    ],
    reads: (field) => ({
      levels: [
        { field: field('region_code'), descending: false, subtotal: true },
        { field: field('floral_source'), descending: false, subtotal: true },
      ],
      across: { levels: [{ field: field('season'), descending: false, subtotal: false }], total: true },
      rows: false,
      grandTotal: true,
      totals: [
        { field: field('kilos'), aggregate: 'sum' },
        { field: field('moisture'), aggregate: 'average' },
      ],
      marks: [{ id: mintId(), field: field('kilos'), of: 'sum', operator: 'below', operands: [`:{${THIN}}`], look: 'poor' }],
      chart: { as: 'bars side by side', field: field('kilos'), aggregate: 'sum' },
    }),
  },
  {
    title: 'Best apiaries of each region',
    table: 'harvests',
    called: HARVEST,
    taken: ['apiary_code', 'picked_on', 'kilos'],
    parameters: () => [
      {
        ...PLAIN,
        id: 'most',
        name: 'most',
        type: 'whole number',
        takes: 'one',
        startsAs: ['10'],
        hint: 'How many apiaries of each region; blank for all.',
        limits: { least: '1' },
      },
    ],
    steps: () => [
      atItsApiary('name', 'district_code'),
      inItsDistrict('region_code'),
      {
        kind: 'summarise',
        keys: [
          ['region', 'region_code'],
          ['apiary', 'name'],
        ],
        values: [['kilos', 'sum', 'kilos']],
      },
      {
        kind: 'arrange',
        sort: [
          ['region', 'ascending'],
          ['kilos', 'descending'],
        ],
        first: { count: ':most', per: ['region'] },
      },
    ],
    says: () => ({ description: 'The apiaries with the most kilos, so many of each region; how many is asked.' }),
  },
  {
    title: 'A season’s figures as a line sheet',
    table: 'harvests',
    called: HARVEST,
    taken: ['id', 'apiary_code', 'picked_on', 'kilos', 'floral_source'],
    parameters: () => [
      { ...PLAIN, id: 'season', name: 'season', type: 'whole number', takes: 'one', leftBlank: 'must be filled', startsAs: ['2025'] },
    ],
    steps: () => [
      atItsApiary('district_code'),
      inItsDistrict('region_code'),
      {
        kind: 'line sheet',
        table: 'advances',
        called: { row: 'advance', rows: 'advances' },
        taken: ['id', 'member_id', 'paid_on', 'amount'],
        amounts: [
          { name: 'season', of: { among: ['extract(year from picked_on) = :season', 'extract(year from paid_on) = :season'] } },
          { name: 'before', of: { among: ['extract(year from picked_on) = :season - 1', 'extract(year from paid_on) = :season - 1'] } },
          { name: 'change', of: { expression: 'season - before' } },
          { name: 'share', of: { share: ['season', 'All regions'] }, format: "0.0' %'" },
        ],
        lines: [
          { place: '1', wording: 'Yield', kind: 'heading' },
          ...[
            ['FN', 'Fennick'],
            ['OV', 'Orrin Vale'],
            ['SM', 'Saltmarsh'],
            ['UT', 'Upper Tarn'],
          ].map(([code = '', name = ''], at) => ({
            place: `1.${at + 1}`,
            wording: name,
            level: 1,
            format: '#,##0.00',
            figure: { aggregate: 'sum' as const, of: 'kilos', among: `region_code = '${code}'` },
          })),
          { place: '2', wording: 'All regions', kind: 'total', format: '#,##0.00', figure: { from: 'Fennick', until: 'Upper Tarn' } },
          { place: '3', wording: 'Harvests', format: '#,##0', figure: { aggregate: 'rows', of: '' } },
          { place: '4', wording: 'Kilos a harvest', format: '0.00', figure: { expression: '"All regions" / Harvests' } },
          { place: '', wording: '', kind: 'blank' },
          { place: '5', wording: 'Money', kind: 'heading' },
          { place: '5.1', wording: 'Paid in advance', level: 1, format: '#,##0.00', figure: { slot: 1, aggregate: 'sum', of: 'amount' } },
          {
            place: '5.2',
            wording: 'Advance a kilo',
            level: 1,
            format: '0.0000',
            figure: { expression: 'round("Paid in advance" / "All regions", 4)' },
          },
        ],
      },
    ],
    says: () => ({
      description:
        'The figures of the script of this name, without a text: a line per region, a subtotal, and figures of another table, for a season, the one before, and the change.',
    }),
  },
];
