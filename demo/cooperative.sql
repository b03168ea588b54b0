-- The cooperative's database, made the same every time from one seed. Flaws are on purpose; README.md lists them.
set client_min_messages = warning;
set max_parallel_workers_per_gather = 0;
select setseed(0.4217);

create schema coop;
set search_path = coop;

-- Draws that are the same on every machine and in every order of the rows: from 0 up to 1, and one of a list.
create function pg_temp.chance(row_no int, what text) returns double precision language sql immutable as $$
  select ('x' || substr(md5(row_no || what), 1, 8))::bit(32)::bigint / 4294967296.0
$$;
create function pg_temp.pick(row_no int, what text, among text[]) returns text language sql immutable as $$
  select among[1 + floor(pg_temp.chance(row_no, what) * cardinality(among))::int]
$$;

create table regions (code text primary key, name text not null unique);
insert into regions values ('FN', 'Fennick'), ('OV', 'Orrin Vale'), ('SM', 'Saltmarsh'), ('UT', 'Upper Tarn');
comment on table regions is 'The four regions of the cooperative';

create table districts (code text primary key, region_code text not null references regions, name text not null, valid_from date not null);
insert into districts
select r.code || '-' || d, r.code, n.names[(ascii(r.code) + d) % 12 + 1] || ' ' || d, date '2015-01-01'
from regions r, generate_series(1, 3) d,
     (select array['Lowmoor','Hatch','Brindle','Cawl','Dunmere','Eskle','Farrow','Gorse','Heron','Ivel','Jarrow','Kelp'] as names) n
order by r.code, d;
-- one district moved from Orrin Vale to Fennick in 2023
update districts set region_code = 'FN', valid_from = date '2023-04-01' where code = 'OV-3';

-- which region a district belongs to, from a day until a day; open where there is no end yet
create table district_regions (district_code text not null references districts, region_code text not null references regions, valid_from date not null, valid_until date, primary key (district_code, valid_from));
insert into district_regions select code, region_code, date '2015-01-01', null from districts where code <> 'OV-3';
insert into district_regions values ('OV-3', 'OV', '2015-01-01', '2023-03-31'), ('OV-3', 'FN', '2023-04-01', null);

create table members (
  id int primary key, number text not null unique, first_name text not null, last_name text not null,
  joined_on date not null, district_code text references districts, phone text, active boolean not null, note text
);
insert into members
select i, 'M' || lpad(i::text, 4, '0'),
  (array['Odo','Marit','Tamsin','Corvin','Elspet','Joran','Linnea','Bastian','Wilmot','Sunniva','Ambrose','Freda','Isolt','Perrin','Una','Rafe'])[1 + (i * 7) % 16],
  (array['Thistlewood','Hale','Quince','Merrow','Ashby','Bracken','Fallow','Sedge','Tarrant','Wick','Larkin','Moss','Yarrow','Pell'])[1 + (i * 5) % 14],
  date '2009-03-01' + (i * 13 % 4800),
  -- Saltmarsh has no members of its own
  (array['FN-1','FN-2','FN-3','OV-1','OV-2','OV-3','UT-1','UT-2','UT-3'])[1 + i % 9],
  case when i % 11 = 0 then null else '0' || (70000000 + i * 7919)::text end, i % 17 <> 0, null
from generate_series(1, 420) i;
update members set last_name = 'O''Sedge' where id = 37;
update members set note = repeat('Keeps bees since childhood and writes about every swarm. ', 2000) where id = 58;
update members set note = '' where id % 40 = 0;

create table apiaries (
  code text primary key, name text not null, member_id int not null references members, district_code text not null references districts,
  altitude_m int, opened_on date not null, shared boolean not null
);
insert into apiaries
select (array['FN','OV','SM','UT'])[1 + i % 4] || '-' || lpad(i::text, 3, '0'),
  pg_temp.pick(i, 'name', array['Mill','Chapel','Quarry','Orchard','Lane End','Old Weir','High Gate','Birch']) || ' ' || i,
  1 + (i * 31) % 420, (array['FN','OV','SM','UT'])[1 + i % 4] || '-' || (1 + i % 3),
  -- Fennick, Orrin Vale, the low Saltmarsh and the high Upper Tarn
  case when i % 19 = 0 then null
    else (array[120, 200, 2, 380])[1 + i % 4] + floor((array[260, 300, 50, 520])[1 + i % 4] * pg_temp.chance(i, 'altitude'))::int end,
  date '2010-04-01' + floor(5000 * pg_temp.chance(i, 'opened'))::int, pg_temp.chance(i, 'shared') < 0.16
from generate_series(1, 310) i;

create table hives (id int primary key, apiary_code text not null references apiaries, queen_year int, kind text not null);
insert into hives
select i, (select code from apiaries order by code offset i % 310 limit 1), case when i % 13 = 0 then null else 2019 + floor(6 * pg_temp.chance(i, 'queen'))::int end,
  pg_temp.pick(i, 'kind', array['frame','frame','frame','frame','top bar','straw'])
from generate_series(1, 1860) i;

create table inspections (id int primary key, hive_id int not null references hives, seen_on date not null, varroa_count text, remark text);
insert into inspections
select i, 1 + (i * 11) % 1860, date '2021-04-01' + floor(1600 * pg_temp.chance(i, 'seen'))::int,
  -- numbers kept as text, some of them no numbers
  case when i % 97 = 0 then 'n/a' when i % 53 = 0 then ' ' || mites else mites end,
  case when i % 5 = 0 then 'calm' when i % 7 = 0 then '' end
from (select i, floor(40 * pg_temp.chance(i, 'mites'))::int::text as mites from generate_series(1, 24000) i) looked;

create table harvests (
  id int primary key, apiary_code text, picked_on date not null, weighed_at timestamptz not null, kilos numeric(8,2), moisture numeric(4,1),
  floral_source text, grade char(1), batch text not null unique
);
insert into harvests
select i,
  case
    when i % 443 = 0 then null                                   -- 28 without any code
    when i % 25 = 7 then 'ZZ-' || lpad((i % 60)::text, 3, '0')  -- apiaries that do not exist
    when i % 61 = 0 then lower(code)                             -- case
    when i % 67 = 0 then code || ' '                             -- trailing blank
    else code
  end,
  picked, picked + interval '8 hours' + floor(600 * pg_temp.chance(i, 'weighed')) * interval '1 minute',
  -- a good or a bad place, a good or a bad season, and the luck of the day
  case when i % 311 = 0 then null else round((
    case flower when 'rape' then 16 when 'lime' then 18 when 'forest' then 15 when 'clover' then 14 when 'chestnut' then 12 when 'heather' then 9 else 13 end
    * (0.55 + pg_temp.chance(n, 'place')) * case season when 2022 then 1.15 when 2023 then 0.6 when 2024 then 0.95 when 2025 then 1.1 else 1 end
    * (0.2 + 1.6 * pg_temp.chance(i, 'kilos')))::numeric, 2) end,
  case when i % 29 = 0 then null else round((case flower when 'heather' then 17.5 else 15.5 end + 5 * pg_temp.chance(i, 'moisture'))::numeric, 1) end,
  flower, pg_temp.pick(i, 'grade', array['A','A','B','B','C']), 'B' || lpad(i::text, 6, '0')
from (
  select i, n, code, season, flower, make_date(season, pg_temp.pick(i, 'month', case flower
      when 'rape' then array['4','4','5','5'] when 'lime' then array['6','7','7','7'] when 'clover' then array['5','6','7','8']
      when 'chestnut' then array['6','7','7'] when 'forest' then array['6','7','8','8'] when 'heather' then array['8','8','9','9','9']
      else array['4','5','6','7','8','9'] end)::int, 1 + floor(28 * pg_temp.chance(i, 'day'))::int) as picked
  from (
    select i, n, code, pg_temp.pick(i, 'season', array['2021','2021','2021','2022','2022','2022','2022','2023','2023','2024','2024','2024','2025','2025','2025'])::int as season,
      -- what flowers where; one in seven keeps no note of it
      nullif(pg_temp.pick(i, 'flower', case left(code, 2)
        when 'FN' then array['clover','clover','clover','clover','rape','rape','rape','lime','lime','chestnut','forest','heather','','']
        when 'OV' then array['lime','lime','lime','lime','chestnut','chestnut','chestnut','rape','rape','clover','forest','heather','','']
        when 'SM' then array['clover','clover','clover','clover','clover','rape','rape','lime','heather','heather','chestnut','forest','','']
        else array['heather','heather','heather','heather','heather','forest','forest','forest','clover','lime','chestnut','rape','',''] end), '') as flower
    from (
      select i, n, (array['FN','OV','SM','UT'])[1 + n % 4] || '-' || lpad(n::text, 3, '0') as code
      from (select i, 1 + floor(310 * pg_temp.chance(i, 'apiary'))::int as n from generate_series(1, 12430) i) drawn
    ) placed
  ) grown
) h
order by i;
comment on column harvests.kilos is 'Net weight in kilograms';
create index on harvests (picked_on);

create table grade_prices (season int not null, grade char(1) not null, floral_source text not null, price numeric(8,4) not null);
insert into grade_prices
select s, g, f, round((6 + (s - 2021) * 0.35 + case g when 'A' then 2.4 when 'B' then 1.1 else 0 end + length(f) * 0.125)::numeric, 4)
from generate_series(2021, 2025) s, unnest(array['A','B','C']) g, unnest(array['heather','lime','clover','rape','chestnut','forest']) f;
-- the price list names some keys twice, with different prices
insert into grade_prices select season, grade, floral_source, price + 0.25 from grade_prices where season = 2024 and floral_source = 'heather';

create table deliveries (id int primary key, harvest_id int not null references harvests, delivered_on date not null, kilos numeric(8,2) not null, buyer_code text);
insert into deliveries
select row_number() over (order by h.id, part), h.id, h.picked_on + 5 + part * 9, round(h.kilos / 2, 2), 'BY' || lpad((h.id % 40)::text, 3, '0')
from harvests h, generate_series(1, 2) part where h.kilos >= 4 and h.id % 3 <> 0;

create table advances (id int primary key, member_id int not null references members, paid_on date not null, amount numeric(10,2) not null);
insert into advances select i, 1 + (i * 17) % 420, date '2021-05-01' + (i * 3 % 1700), round((50 + 900 * random())::numeric, 2) from generate_series(1, 2600) i;

create table scale_readings (hive_id int not null, read_at timestamptz not null, weight_kg numeric(6,2), outside_c real, battery_v double precision, sensor text not null, flagged boolean not null, reading_no bigint not null);
insert into scale_readings
select 1 + i % 120, timestamptz '2024-01-01 00:00+00' + (i / 120) * interval '1 hour',
  case when i % 9973 = 0 then null else (28 + (i % 700) * 0.031 + (i % 24) * 0.05)::numeric(6,2) end,
  (8 + 12 * sin(i / 1000.0))::real, 3.1 + (i % 97) / 100.0, 'S' || lpad((i % 120)::text, 3, '0'), i % 5003 = 0, i
from generate_series(0, :readings - 1) i;
alter table scale_readings add primary key (reading_no);
create index on scale_readings (hive_id, read_at);
comment on table scale_readings is 'Hourly weights of 120 hive scales, the big table';

create function yield_by_region(season int) returns table (region text, harvests bigint, kilos numeric) language sql stable as $$
  select r.name, count(*), sum(h.kilos) from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
  join coop.districts d on d.code = a.district_code join coop.regions r on r.code = d.region_code
  where extract(year from h.picked_on) = $1 group by r.name order by r.name
$$;

create function member_settlement(member int, season int) returns table (delivered_on date, kilos numeric, price numeric, amount numeric) language sql stable as $$
  select d.delivered_on, d.kilos, min(p.price), round(d.kilos * min(p.price), 2)
  from coop.deliveries d join coop.harvests h on h.id = d.harvest_id join coop.apiaries a on a.code = h.apiary_code
  join coop.grade_prices p on p.season = $2 and p.grade = h.grade and p.floral_source = h.floral_source
  where a.member_id = $1 and extract(year from h.picked_on) = $2 group by d.id, d.delivered_on, d.kilos order by d.delivered_on
$$;

comment on function yield_by_region is 'Harvests and kilos of each region in a season';
comment on function member_settlement is 'What a member is owed for a season, one row per delivery';

-- with a default, a list, and written without saying that it only reads, as most are
create function best_apiaries(season int, places int default 5, grades text[] default '{A,B}') returns table (place bigint, apiary text, region text, kilos numeric) language plpgsql as $$
begin
  return query
    select rank() over (order by sum(h.kilos) desc), a.name, r.name, sum(h.kilos) from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
    join coop.districts d on d.code = a.district_code join coop.regions r on r.code = d.region_code
    where extract(year from h.picked_on) = best_apiaries.season and h.grade = any (best_apiaries.grades) and h.kilos is not null
    group by a.code, a.name, r.name order by 1, 2 limit best_apiaries.places;
end
$$;
comment on function best_apiaries is 'The apiaries with the most kilos of a season';

-- what is handed out when a season is closed: two figures, and two lists by cursors
create procedure close_season(season int, out harvests bigint, out kilos numeric, inout by_member refcursor default null, inout by_region refcursor default null) language plpgsql as $$
begin
  select count(*), sum(h.kilos) into harvests, kilos from coop.harvests h where extract(year from h.picked_on) = close_season.season;
  if harvests = 0 then raise warning 'no harvest was picked in %', season; end if;
  open by_member for
    select m.id as member, m.first_name || ' ' || m.last_name as name, count(*) as harvests, sum(h.kilos) as kilos
    from coop.harvests h join coop.apiaries a on a.code = h.apiary_code join coop.members m on m.id = a.member_id
    where extract(year from h.picked_on) = close_season.season group by m.id, m.first_name, m.last_name order by m.id;
  open by_region for
    select r.name as region, sum(h.kilos) as kilos from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
    join coop.districts d on d.code = a.district_code join coop.regions r on r.code = d.region_code
    where extract(year from h.picked_on) = close_season.season group by r.name order by r.name;
  raise notice 'season % is closed with % harvests', season, harvests;
end
$$;
comment on procedure close_season is 'Closes a season: its figures, and lists by member and by region';

-- in two passes, with a temp table between
create function ranked_hives(season int, above numeric default 0) returns table (place bigint, hive int, kilos numeric) language plpgsql as $$
begin
  create temp table weighed on commit drop as
    select s.hive_id, max(s.weight_kg) - min(s.weight_kg) as gained from coop.scale_readings s
    where extract(year from s.read_at) = ranked_hives.season group by s.hive_id;
  delete from weighed where gained is null or gained < ranked_hives.above;
  return query select rank() over (order by w.gained desc), w.hive_id, w.gained from weighed w order by 1, 2;
end
$$;
comment on function ranked_hives is 'Hives by how far their weights lie apart in a season';

analyze;
grant usage on schema coop to cendra_read, cendra_keep;
-- where texts are kept as functions
create schema kept authorization cendra_keep;
grant usage on schema kept to cendra_read;
grant select on all tables in schema coop to cendra_read;
