import { parametersIn } from '../../src';

/** The conditions parameters of a text can switch off, or why they cannot. */
function conditions(text: string): readonly string[] {
  return parametersIn(text).map(({ condition }) => (condition.whole ? text.slice(condition.from, condition.to) : condition.because));
}

describe('the condition of a parameter', () => {
  test.each([
    ['select * from h where season = :s', 'season = :s'],
    ['select * from h where a = 1 and season = :s and b = 2', 'season = :s'],
    ['select * from h where (a = 1) and (season = :s) order by 1', 'season = :s'],
    ['select * from h join m on m.code = h.code and m.region = :r where true', 'm.region = :r'],
    ['select a, count(*) from h group by a having count(*) >= :least limit 5', 'count(*) >= :least'],
    ['select * from h where lower(name) like lower(:name) || $$%$$ and b', 'lower(name) like lower(:name) || $$%$$'],
    ['select * from h where a in (:list) and b = 1', 'a in (:list)'],
    ['select * from h where a not in (:list)', 'a not in (:list)'],
    ['select * from h where a = any(:list)', 'a = any(:list)'],
    ['select * from h where picked between :period and kilos > 5', 'picked between :period'],
    ["select * from h where picked between :period and (a is null or b = 'x')", 'picked between :period'],
    ['select * from h where picked not between :period', 'picked not between :period'],
    ['select * from h where picked >= :from::date + 1 and x', 'picked >= :from::date + 1'],
    ['select * from h where case when a then b else c end = :v', 'case when a then b else c end = :v'],
    ['select * from h where a is distinct from :v and b', 'a is distinct from :v'],
    ['select * from h where a is not distinct from :v', 'a is not distinct from :v'],
    ['select * from h where extract(year from picked) = :year', 'extract(year from picked) = :year'],
    ['select * from h where left(code, 2) = :p', 'left(code, 2) = :p'],
    ['select * from h where a in (select b from t where c = :v and d) and e', 'c = :v'],
    ['with t as (select * from h where s = :s) select * from t', 's = :s'],
    ['select count(*) filter (where grade = :g) from h', 'grade = :g'],
    ['select * from h where ((a = :v))', 'a = :v'],
    ['select * from h where a between 1 and 5 and b = :v', 'b = :v'],
    ['select * from h where a = :v /* and so on */ -- or not\n group by 1', 'a = :v'],
    ['select * from h where a like :p union select * from t', 'a like :p'],
    ['select * from h where :v = a', ':v = a'],
    ['select * from a, b where a.x = b.x and a.y <= :v for update', 'a.y <= :v'],
    ['SELECT * FROM h WHERE Season = :S AND true', 'Season = :S'],
    ['select * from h where (a, b) = (:v, 2)', '(a, b) = (:v, 2)'],
  ])('%s', (text, condition) => {
    expect(conditions(text)).toEqual([condition]);
  });

  test.each([
    ['select * from h where a = :v or b', /beside an “or”/],
    ['select * from h where (a = :v or b) and c', /beside an “or”/],
    ['select * from h where c and (b or a = :v)', /beside an “or”/],
    ['select * from h where not a = :v', /behind a “not”/],
    ['select * from h where not (a = :v)', /behind a “not”/],
    ['select * from h where b and not (a = :v and c)', /behind a “not”/],
    ['select * from h where (a = :v and c) or b', /beside an “or”/],
    ['select case when a = :v then 1 end from h', /in a “case”/],
    ['select * from h where b = case when a then :v else 1 end', /in a “case”/],
    ['select :v as label from h', /not compared/],
    ['select kilos * :v from h', /not compared/],
    ['select * from h limit :n', /not compared/],
    ['select * from h where :v', /not compared/],
    ['select coalesce(a, :v) from h', /not compared/],
  ])('%s has none', (text, because) => {
    expect(conditions(text)).toEqual([expect.stringMatching(because)]);
  });

  test('an end that is computed is an end', () => {
    const text = 'select * from h where picked between :from and (select max(d) from t where x = y) and kilos > 5';
    expect(parametersIn(text).map((each) => each.stands)).toEqual(['one']);
  });

  test('two ends of one between are two parameters, neither of which can go alone', () => {
    const text = 'select * from h where picked between :from and :until and kilos > 5';
    const [from, until] = parametersIn(text);
    expect([from?.stands, until?.stands]).toEqual(['one', 'one']);
  });
});
