import type { DemoDataset } from './demo-dataset';
import { asks, values } from './demo-dataset';

const HARVEST = { row: 'harvest', rows: 'harvests' };
const APIARY = { row: 'apiary', rows: 'apiaries' };

/** Datasets of several tables, with what the data makes of their joins. */
export const JOINED_DATASETS: readonly DemoDataset[] = [
  {
    title: 'Harvests and their apiaries',
    table: 'harvests',
    called: HARVEST,
    taken: ['id', 'apiary_code', 'picked_on', 'kilos', 'floral_source'],
    steps: () => [
      {
        kind: 'join',
        table: 'apiaries',
        called: APIARY,
        pairs: [{ left: 'apiary_code', right: 'code' }],
        taken: ['name', 'district_code'],
      },
    ],
    says: () => ({
      description: 'Harvests whose apiary is missing, or whose code is written differently, stay without a name: the ledger counts them.',
    }),
  },
  {
    title: 'Harvests priced by grade',
    table: 'harvests',
    called: HARVEST,
    taken: ['id', 'picked_on', 'kilos', 'grade', 'floral_source'],
    steps: () => [
      { kind: 'calculate', fields: [['season', 'extract(year from picked_on)']] },
      {
        kind: 'join',
        table: 'grade_prices',
        called: { row: 'price', rows: 'prices' },
        pairs: [
          { left: 'season', right: 'grade_prices_season' },
          { left: 'grade', right: 'grade_prices_grade' },
          { left: 'floral_source', right: 'grade_prices_floral_source' },
        ],
        taken: ['price'],
      },
      { kind: 'calculate', fields: [['worth', 'round(kilos * price, 2)']] },
    ],
    says: () => ({
      description: 'The price list names each heather price of 2024 twice, so those harvests double, and their kilos with them.',
    }),
  },
  {
    title: 'Apiaries, their keeper and neighbours',
    table: 'apiaries',
    called: APIARY,
    taken: ['code', 'name', 'district_code'],
    steps: (field) => [
      { kind: 'criteria', clauses: [asks(field('district_code'), 'begins', values('FN'))] },
      {
        kind: 'join',
        table: 'members',
        role: { row: 'keeper', rows: 'keepers' },
        pairs: [{ left: 'member_id', right: 'id' }],
        taken: ['first_name', 'last_name'],
      },
      {
        kind: 'join',
        table: 'members',
        role: { row: 'neighbour', rows: 'neighbours' },
        pairs: [{ left: 'district_code', right: 'neighbour_district_code' }],
        taken: ['neighbour_first_name', 'neighbour_last_name'],
        accepted: 'everybody who lives in the district is a neighbour',
      },
    ],
    says: () => ({ description: 'Members come in twice: as the keeper of the apiary, and as whoever lives in the same district.' }),
  },
  {
    title: 'Harvests in the region of their day',
    table: 'harvests',
    called: HARVEST,
    taken: ['id', 'picked_on', 'kilos'],
    steps: () => [
      {
        kind: 'join',
        table: 'apiaries',
        called: APIARY,
        pairs: [{ left: 'apiary_code', right: 'code', overlooks: ['blanks', 'case'] }],
        keeps: { met: true, left: false, right: false },
        taken: ['district_code'],
        accepted: 'codes differ in more than blanks and case',
      },
      {
        kind: 'join',
        table: 'district_regions',
        called: { row: 'region of its day', rows: 'regions of their day' },
        pairs: [
          { left: 'district_code', right: 'district_regions_district_code' },
          { left: 'picked_on', comparison: 'between', right: 'valid_from', until: 'valid_until', nullsMeet: true },
        ],
        taken: ['region_code', 'valid_from'],
        accepted: 'the spans of a district do not overlap',
      },
    ],
    says: () => ({
      description: 'A district belongs to a region from a day until a day; OV-3 went from Orrin Vale to Fennick in April 2023.',
    }),
  },
];
