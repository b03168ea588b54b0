/** A text on the shelf of the demo. */
export interface DemoKeptText {
  readonly name: string;
  readonly note: string;
  readonly tags: readonly string[];
  /** Its versions, oldest first. */
  readonly versions: readonly [string, ...string[]];
}

const SETTLEMENT = `select m.number, m.last_name, count(*) as deliveries,
       sum(d.kilos) as kilos, sum(d.kilos * p.price) as value
from coop.members m
join coop.apiaries a on a.member_id = m.id
join coop.harvests h on h.apiary_code = a.code
join coop.deliveries d on d.harvest_id = h.id
join coop.grade_prices p on p.season = :season and p.grade = h.grade and p.floral_source = h.floral_source
where extract(year from h.picked_on) = :season
group by m.number, m.last_name
order by m.number`;

/** Five, two of them alike: the second leaves out apiaries that several members share. */
export const KEPT_TEXTS: readonly DemoKeptText[] = [
  {
    name: 'Settlement of members',
    note: 'What each member is owed for a season, before advances.',
    tags: ['settlement'],
    versions: [SETTLEMENT.replace('count(*) as deliveries', 'count(d.buyer_code) as deliveries'), SETTLEMENT],
  },
  {
    name: 'Settlement of members, new',
    note: 'As the settlement, without apiaries that several members share. Ask the office which one is in use.',
    tags: ['settlement'],
    versions: [SETTLEMENT.replace('\ngroup by', '\n  and a.shared = false\ngroup by')],
  },
  {
    name: 'Harvests without an apiary',
    note: 'Codes that no apiary has, with what is wrong with them.',
    tags: ['check'],
    versions: [
      `select h.id, h.apiary_code, h.picked_on, h.kilos
from coop.harvests h
left join coop.apiaries a on a.code = h.apiary_code
where a.code is null
order by h.id`,
    ],
  },
  {
    name: 'Hives that lost weight',
    note: 'The first and the last reading of each hive since a day.',
    tags: ['check', 'hives'],
    versions: [
      `with readings as (
  select hive_id, read_at, weight_kg,
         row_number() over (partition by hive_id order by read_at) as first,
         row_number() over (partition by hive_id order by read_at desc) as last
  from coop.scale_readings
  where read_at >= :since and not flagged
)
select a.hive_id, a.weight_kg as at_first, b.weight_kg as at_last, b.weight_kg - a.weight_kg as change
from readings a
join readings b on b.hive_id = a.hive_id and b.last = 1
where a.first = 1 and b.weight_kg < a.weight_kg
order by change`,
    ],
  },
  {
    name: 'Kilos per region and season',
    note: 'The figures of the yearly letter.',
    tags: ['letter'],
    versions: [
      `select r.name as region, extract(year from h.picked_on)::int as season, sum(h.kilos) as kilos
from coop.harvests h
join coop.apiaries a on a.code = h.apiary_code
join coop.districts d on d.code = a.district_code
join coop.regions r on r.code = d.region_code
group by r.name, extract(year from h.picked_on)
order by region, season`,
    ],
  },
];
