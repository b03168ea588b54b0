import type { Page } from '@playwright/test';
import { pastedSql, stamp, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

const field = (page: Page) => page.getByRole('textbox', { name: 'SQL text' });
const dialog = (page: Page) => page.getByRole('dialog', { name: 'Say it in steps' });

test('a text becomes steps that give the same rows, and comes back by undo', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    `select a.name, count(*) as harvests, sum(h.kilos) as kilos
from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
where h.kilos >= 5 and h.grade in ('A', 'B')
group by a.name having count(*) > 10
order by kilos desc, a.name`,
    3,
  );
  await page.getByRole('button', { name: 'Say it in steps …' }).click();
  const steps = dialog(page).getByRole('list', { name: 'The steps' });
  await expect(steps.getByRole('listitem')).toHaveText([
    'table harvests',
    'table apiaries',
    /^join meets its row of apiaries where apiary_code equals code$/,
    'criteria kilos at least 5 and grade one of A, B',
    /^summarise one row per name, with rows and sum of kilos$/,
    'criteria harvests above 10',
    /^arrange by kilos descending/,
  ]);
  const [expected] = await inDemo<{ n: string }>(
    `select count(*) n from (select 1 from coop.harvests h join coop.apiaries a on a.code = h.apiary_code
      where h.kilos >= 5 and h.grade in ('A', 'B') group by a.name having count(*) > 10) x`,
  );
  await expect(dialog(page).getByText(`Both give ${expected?.n} rows, and all are the same.`)).toBeVisible();
  await accessible(page);
  await dialog(page).getByRole('button', { name: 'Take the steps' }).click();
  await expect(dialog(page)).toBeHidden();
  await expect(trail(page)).toContainText('harvests above 10');
  await expect(stamp(page)).toContainText(`all ${expected?.n} rows`);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(trail(page)).not.toContainText('harvests above 10');
});

test('what has no step stays SQL and says why; a text without any is left as it is', async ({ page, signIn }) => {
  await signIn('analyst');
  await pastedSql(
    page,
    "select h.id, regexp_replace(h.batch, '[0-9]', '#', 'g') as mark, h.kilos from coop.harvests h where h.kilos > 20 order by h.id",
    3,
  );
  await page.getByRole('button', { name: 'Say it in steps …' }).click();
  const stays = dialog(page).getByRole('list', { name: 'Stays SQL, in a step of its own' });
  await expect(stays).toContainText('The function regexp_replace has no counterpart.');
  await expect(dialog(page).getByRole('list', { name: 'The steps' }).getByRole('listitem').first()).toHaveText('sql SQL over harvests');
  await expect(dialog(page).getByText(/^Both give [\d\u202f]+ rows, and all are the same\.$/)).toBeVisible();
  await dialog(page).getByRole('button', { name: 'Leave it SQL' }).click();
  await field(page).fill('select grade, sum(kilos) as kilos from coop.harvests group by rollup (grade)');
  await expect(page.getByText('It gives 2 fields.')).toBeVisible();
  await page.getByRole('button', { name: 'Say it in steps …' }).click();
  await expect(dialog(page).getByRole('list', { name: 'What has no step' })).toContainText('Groups of several kinds at once have no step.');
  await accessible(page);
  await page.keyboard.press('Escape');
  await expect(dialog(page)).toBeHidden();
});
