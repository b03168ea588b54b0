/** A dataset of the demo that begins with a text of SQL. */
export interface DemoText {
  readonly title: string;
  readonly description: string;
  readonly text: string;
  /** What its parameters start as, by name. */
  readonly startsAs?: Readonly<Record<string, readonly string[]>>;
  /** It is a script, of several statements. */
  readonly script?: true;
  /** Left as it was pasted: the source is asked about it once it is converted. */
  readonly pasted?: true;
}

export const TEXT_DATASETS: readonly DemoText[] = [
  {
    title: 'Settlement of members, as it was pasted',
    description:
      'A text from another tool, with declarations at its head. It is converted on the bench, and mended by what is found in it.',
    pasted: true,
    text: `-- settlement of members, as it was run by hand
declare @season int = 2025;
declare @rate decimal(6,2) = 0.05;

select m.number, m.last_name, count(d.buyer_code) as sold,
       sum(d.kilos * p.price) as value, sum(d.kilos * p.price) * @rate as held_back
from coop.members m
left join coop.apiaries a on a.member_id = m.id
join coop.harvests h on h.apiary_code = a.code
join coop.deliveries d on d.harvest_id = h.id
join coop.grade_prices p on p.season = @season and p.grade = h.grade and p.floral_source = h.floral_source
where extract(year from h.picked_on) = @season
  and a.shared = false
group by m.number, m.last_name
order by value desc
limit 100`,
  },
  {
    title: 'Harvests by text, asked in every way',
    description: 'One value, several, a range, and one that the text itself asks about when it is blank.',
    startsAs: { least: ['5'], grades: ['A', 'B'], period: ['2025-04-01', '2025-09-30'] },
    text: `select h.id, h.apiary_code, h.picked_on, h.kilos, h.grade, h.floral_source
from coop.harvests h
where h.kilos >= :least
  and h.grade in (:grades)
  and h.picked_on between :period
  and (:flower is null or h.floral_source = :flower)
order by h.picked_on, h.id`,
  },
  {
    title: 'Kilos of a season, one day short',
    description:
      'The season begins on 1 April, and its condition looked right for the one season that was tried. A sweep shows the day that is missing.',
    startsAs: { season: ['2025'] },
    text: `select h.picked_on, count(*) as harvests, sum(h.kilos) as kilos
from coop.harvests h
where h.picked_on > make_date(:season, 4, 1)
  and h.picked_on < make_date(:season, 10, 1)
group by h.picked_on
order by h.picked_on`,
  },
  {
    title: 'A season’s figures, line by line',
    description:
      'A script with a temp table: three fills, and shares of the total, one pass of which is wrong. The statement list shows which.',
    script: true,
    startsAs: { season: ['2024'] },
    text: `-- A season's figures in a fixed order, with the share of each region.
create temp table figures (place int primary key, wording text not null, amount numeric(14,2), share numeric(5,1));

-- kilos, a line per region
insert into figures (place, wording, amount)
select 10 + row_number() over (order by r.name), 'Kilos, ' || r.name, sum(h.kilos)
from coop.harvests h
join coop.apiaries a on a.code = h.apiary_code
join coop.districts d on d.code = a.district_code
join coop.regions r on r.code = d.region_code
where extract(year from h.picked_on)::int = :season
group by r.name;

-- all regions together
insert into figures (place, wording, amount)
select 20, 'Kilos, all regions', sum(amount) from figures where place < 20;

-- what was paid in advance
insert into figures (place, wording, amount)
select 30, 'Paid in advance', sum(amount)
from coop.advances
where extract(year from paid_on)::int = :season;

-- shares of the kilos
update figures
set share = round(100 * amount / (select sum(amount) from figures where place <= 20), 1)
where place <= 20;

select place, wording, amount, share from figures order by place`,
  },
];
