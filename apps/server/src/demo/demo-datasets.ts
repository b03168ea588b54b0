import type { Parameter } from '@cendra/core';
import { mintId } from '../datasets';
import type { DemoDataset } from './demo-dataset';
import { asks, parameter, PLAIN, RECORDS, values, written } from './demo-dataset';
import { JOINED_DATASETS } from './joined-datasets';
import { SUMMED_DATASETS } from './summed-datasets';

const MIN_KILOS: Parameter = {
  id: 'min-kilos',
  name: 'min_kilos',
  type: 'decimal',
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: ['5'],
  hint: 'Harvests below this are kept by the member.',
};

export const DEMO_DATASETS: readonly DemoDataset[] = [
  {
    title: 'Harvests worth delivering',
    table: 'harvests',
    taken: ['id', 'apiary_code', 'picked_on', 'kilos', 'moisture', 'floral_source', 'grade'],
    parameters: () => [MIN_KILOS],
    steps: (field) => [{ kind: 'criteria', clauses: [asks(field('kilos'), 'at least', parameter(MIN_KILOS.id))] }],
  },
  {
    title: 'Harvests, shares and running totals',
    table: 'harvests',
    taken: ['id', 'apiary_code', 'picked_on', 'kilos', 'moisture', 'grade'],
    steps: () => [
      {
        kind: 'calculate',
        fields: [
          ['season', 'extract(year from picked_on)'],
          ['dry_kilos', 'round(kilos * (100 - moisture) / 82, 2)'],
          ['band', "case when kilos >= 25 then 'large' when kilos >= 8 then 'middling' when kilos is not null then 'small' end"],
          ['share', 'kilos / sum(kilos) over (partition by season)'],
          ['so_far', 'sum(kilos) over (partition by season order by picked_on, id)'],
          ['place', 'rank() over (partition by season order by kilos desc)'],
          ['change', 'kilos - lag(kilos) over (partition by apiary_code order by picked_on, id)'],
        ],
      },
    ],
  },
  {
    title: 'Inspections with readable counts',
    table: 'inspections',
    taken: ['id', 'hive_id', 'seen_on', 'varroa_count', 'remark'],
    steps: () => [
      {
        kind: 'calculate',
        name: 'counts as numbers',
        fields: [
          ['varroa', 'cast(varroa_count as integer)'],
          ['per_hundred', '100 / varroa'],
          ['week_from', 'start_of_week(seen_on)'],
          ['seen_in', "format_date(seen_on, 'MMMM yyyy')"],
          ['next_due', "seen_on + interval '3' week"],
          ['told', "join_text(', ', nullif(trim(remark), ''), case when varroa > 20 then 'treat' end)"],
        ],
      },
    ],
  },
  {
    title: 'Members and how they are addressed',
    table: 'members',
    taken: ['id', 'number', 'first_name', 'last_name', 'joined_on', 'phone'],
    steps: () => [
      {
        kind: 'calculate',
        fields: [
          ['full_name', "first_name || ' ' || last_name"],
          ['sorted_by', "upper(last_name) || ', ' || substring(first_name from 1 for 1) || '.'"],
          ['number_only', "cast(trim(leading 'M' from number) as integer)"],
          ['months_with_us', "months_between(joined_on, date '2025-09-30')"],
          ['season_end', "end_of_quarter(joined_on + interval '1' year)"],
          ['phone_shown', "coalesce('+00 ' || substring(phone from 2), 'no phone')"],
        ],
      },
    ],
  },
  {
    title: 'Districts and their regions',
    table: 'districts',
    taken: ['code', 'name', 'region_code'],
    steps: () => [],
  },
  {
    title: 'Apiaries of a district',
    table: 'apiaries',
    taken: ['code', 'name', 'district_code', 'altitude_m', 'opened_on', 'shared'],
    parameters: (_field, other) => {
      const districts = other('Districts and their regions');
      return [
        {
          ...PLAIN,
          id: 'region',
          name: 'region',
          type: 'text',
          takes: 'one',
          hint: 'Narrows the districts that are offered.',
          choices: {
            from: 'typed',
            items: [
              { value: 'FN', label: 'Fennick' },
              { value: 'OV', label: 'Orrin Vale' },
              { value: 'SM', label: 'Saltmarsh' },
              { value: 'UT', label: 'Upper Tarn' },
            ],
          },
        },
        {
          ...PLAIN,
          id: 'district',
          name: 'district',
          type: 'text',
          takes: 'several',
          choices: {
            from: 'dataset',
            dataset: districts.id,
            field: districts.field('code'),
            label: districts.field('name'),
            sorted: 'by label',
            narrowedBy: [{ parameter: 'region', field: districts.field('region_code') }],
          },
        },
        { ...PLAIN, id: 'altitude', name: 'altitude', type: 'whole number', takes: 'range', limits: { least: '0', greatest: '3000' } },
        { ...PLAIN, id: 'is-shared', name: 'is_shared', type: 'yes/no', takes: 'one' },
        { ...PLAIN, id: 'opened', name: 'opened', type: 'date', takes: 'range', startsAs: ['last 30 years'] },
      ];
    },
    steps: (field) => [
      {
        kind: 'criteria',
        clauses: [
          asks(field('district_code'), 'one of', parameter('district')),
          asks(field('altitude_m'), 'from…to', parameter('altitude')),
          written('shared = :is_shared'),
          asks(field('opened_on'), 'within', parameter('opened')),
        ],
      },
    ],
  },
  {
    title: 'Harvests of a season, by source and grade',
    table: 'harvests',
    taken: ['id', 'apiary_code', 'weighed_at', 'kilos', 'moisture', 'floral_source', 'grade'],
    parameters: (field) => [
      { ...PLAIN, id: 'period', name: 'period', type: 'date', takes: 'range', startsAs: ['2025-04-01', '2025-09-30'] },
      {
        ...PLAIN,
        id: 'source',
        name: 'source',
        type: 'text',
        takes: 'one',
        startsBy: 'first choice',
        choices: { from: 'field', field: field('floral_source'), label: null, sorted: 'most rows first', narrowedBy: [] },
      },
      {
        ...PLAIN,
        id: 'grades',
        name: 'grades',
        type: 'text',
        takes: 'several',
        startsAs: ['A', 'B'],
        limits: { most: 3 },
        choices: {
          from: 'typed',
          items: [
            { value: 'A', label: 'first grade' },
            { value: 'B', label: 'second grade' },
            { value: 'C', label: 'third grade' },
          ],
        },
      },
      {
        ...PLAIN,
        id: 'most-moisture',
        name: 'most_moisture',
        type: 'decimal',
        takes: 'one',
        startsBy: 'expression',
        startsAs: ['37.0 / 2'],
        limits: { least: '10', greatest: '25', message: 'Moisture is between 10 and 25 per cent.' },
      },
    ],
    steps: (field) => [
      {
        kind: 'criteria',
        clauses: [
          asks(field('weighed_at'), 'within', parameter('period')),
          asks(field('floral_source'), 'is', parameter('source')),
          asks(field('grade'), 'one of', parameter('grades')),
          {
            id: mintId(),
            kind: 'group',
            off: false,
            head: 'at least one',
            clauses: [
              asks(field('moisture'), 'at most', parameter('most-moisture')),
              written('kilos > 20 or (kilos > 10 and moisture is null)'),
            ],
          },
          asks(field('apiary_code'), 'is not', values('OV-101'), true),
        ],
      },
    ],
  },
  {
    title: 'Yield of 2025 by floral source',
    table: 'harvests',
    taken: ['floral_source', 'grade', 'picked_on', 'apiary_code', 'batch', 'kilos', 'moisture'],
    steps: (field) => [{ kind: 'criteria', clauses: [asks(field('picked_on'), 'within', values('2025-04-01', '2025-09-30'))] }],
    says: (field) => ({
      description: 'What was picked in the season of 2025, for the yield report of the autumn meeting.',
      tags: ['yield', 'season 2025'],
      sheet: [
        {
          field: field('kilos'),
          description: 'Net weight after straining.',
          format: { pattern: '#,##0.0', unit: 'kg' },
        },
        { field: field('moisture'), addsUp: 'over nothing' as const, format: { pattern: '0.0', unit: '%' } },
        { field: field('picked_on'), format: { pattern: 'd MMM yyyy' } },
        { field: field('batch'), label: 'Batch number', link: `${RECORDS}batches/{${field('batch')}}` },
      ].toSorted((a, b) => (a.field < b.field ? -1 : 1)),
      brief: {
        request: 'Kilos and moisture of 2025 by floral source and grade, with every batch, for the autumn meeting.',
        items: [
          { id: mintId(), kind: 'rows', text: 'one per batch picked in 2025', figure: '', met: true },
          { id: mintId(), kind: 'field', text: 'moisture as an average, never a sum', figure: '', met: true },
          { id: mintId(), kind: 'figure', text: 'batches of the season', figure: '2 510', met: false },
        ],
      },
      proof: {
        levels: [
          { field: field('floral_source'), descending: false, subtotal: true },
          { field: field('grade'), descending: false, subtotal: true },
        ],
        rows: true,
        grandTotal: true,
        totals: [
          { field: field('kilos'), aggregate: 'sum' },
          { field: field('moisture'), aggregate: 'average' },
        ],
        marks: [
          { id: mintId(), field: field('kilos'), operator: 'above', operands: ['30'], look: 'strong' },
          { id: mintId(), field: field('moisture'), operator: 'above', operands: ['20'], look: 'lettered' },
        ],
      },
    }),
  },
  {
    title: 'Weights of six hives',
    table: 'scale_readings',
    taken: ['hive_id', 'read_at', 'weight_kg', 'outside_c', 'sensor'],
    steps: (field) => [{ kind: 'criteria', clauses: [asks(field('hive_id'), 'at most', values('6'))] }],
    says: (field) => ({
      description: 'Hourly weights. Weights of different hives add up; those of one hive at different hours do not.',
      tags: ['scales'],
      sheet: [
        {
          field: field('weight_kg'),
          label: 'Weight',
          addsUp: 'over everything but dates, then last' as const,
          lastBy: field('read_at'),
          format: { pattern: '#,##0.00', unit: 'kg' },
        },
        { field: field('hive_id'), label: 'Hive' },
        { field: field('outside_c'), label: 'Outside', addsUp: 'over nothing' as const, format: { pattern: '0.0', unit: '°C' } },
      ].toSorted((a, b) => (a.field < b.field ? -1 : 1)),
      proof: {
        levels: [{ field: field('hive_id'), descending: false, subtotal: true }],
        rows: false,
        grandTotal: true,
        totals: [
          { field: field('weight_kg'), aggregate: 'sum' },
          { field: field('outside_c'), aggregate: 'average' },
        ],
        marks: [],
      },
    }),
  },
  {
    title: 'Weekly weights of six hives',
    table: 'scale_readings',
    taken: ['hive_id', 'read_at', 'weight_kg'],
    steps: (field) => [
      { kind: 'criteria', clauses: [asks(field('hive_id'), 'at most', values('6'))] },
      {
        kind: 'summarise',
        keys: [
          ['week', 'start_of_week(cast(read_at as date))'],
          ['hive', 'hive_id'],
        ],
        values: [['weight', 'average', 'weight_kg']],
      },
    ],
    says: () => ({
      description: 'The average weight of each hive in a week, drawn as lines: where one falls and the others do not, look at the hive.',
      tags: ['scales'],
    }),
    reads: (field) => ({
      levels: [{ field: field('week'), descending: false, subtotal: true }],
      across: { levels: [{ field: field('hive'), descending: false, subtotal: false }], total: false },
      rows: false,
      grandTotal: false,
      totals: [{ field: field('weight'), aggregate: 'average' }],
      marks: [],
      chart: { as: 'lines', field: field('weight'), aggregate: 'average' },
    }),
  },
  {
    title: 'Harvests that leave nothing',
    table: 'harvests',
    taken: ['id', 'picked_on', 'kilos', 'moisture', 'grade'],
    steps: (field) => [
      {
        kind: 'criteria',
        clauses: [
          asks(field('grade'), 'one of', values('A', 'B')),
          asks(field('kilos'), 'at least', values('20')),
          asks(field('moisture'), 'below', values('18')),
          written('kilos * (100 - moisture) / 82 <= 8'),
        ],
      },
    ],
  },
  ...JOINED_DATASETS,
  ...SUMMED_DATASETS,
];
