import type { Page } from '@playwright/test';
import { stamp, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

const statements = (page: Page) => page.getByRole('list', { name: 'Statements' }).getByRole('button');
const behind = (page: Page, number: number) => page.getByRole('region', { name: `Behind statement ${number}`, exact: true });

/** Writes over the whole text of a script. */
async function write(page: Page, text: string): Promise<void> {
  const field = page.getByRole('textbox', { name: 'Script', exact: true });
  await field.click();
  await page.keyboard.press('Control+a');
  await page.keyboard.insertText(text);
}

test('the wrong pass of a script is found in the list of its statements, and mended from there on', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'A season’s figures, line by line' }).click();
  await expect(stamp(page)).toContainText('all 6 rows');
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await expect(statements(page).nth(5)).toContainText('6 rows');
  await expect(page.getByText(/kept until/)).toBeVisible();
  // By keyboard: the fourth statement, then the fifth.
  await statements(page).nth(3).click();
  await expect(behind(page, 4)).toContainText('1 row new');
  // Enter runs to there: what comes behind does not stand any more, and what stood before does not run again.
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(statements(page).nth(5)).toContainText('not run');
  await expect(page.getByText('5 stood already')).toBeVisible();
  await expect(behind(page, 5)).toContainText('5 rows changed');
  const total = behind(page, 5).getByRole('row').filter({ hasText: 'Kilos, all regions' });
  // A total that is half of itself: the shares are of all lines, the total among them.
  await expect(total).toContainText('50.0was null');
  await accessible(page);
  // Another key is said, and taken back.
  await behind(page, 5).getByRole('button', { name: 'Another key …' }).click();
  await behind(page, 5).getByRole('checkbox', { name: 'wording tells rows of figures apart' }).check();
  await expect(behind(page, 5)).toContainText('Rows told apart by place, wording, once the statements run again.');
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await expect(behind(page, 5)).toContainText('Rows told apart by place, wording.');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await expect(behind(page, 5)).toContainText('by place, its primary key.');
  await behind(page, 5).getByRole('button', { name: 'With more room …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Behind statement 5 of 6' });
  await dialog.getByRole('button', { name: 'The one before' }).click();
  await expect(page.getByRole('dialog', { name: 'Behind statement 4 of 6' })).toContainText('Paid in advance');
  await page.keyboard.press('Escape');

  await page.getByRole('textbox', { name: 'Script', exact: true }).click();
  await page.keyboard.press('Control+f');
  await page.getByRole('textbox', { name: 'Find' }).fill('place <= 20), 1');
  await page.getByRole('textbox', { name: 'Replace' }).fill('place < 20), 1');
  await page.getByRole('button', { name: 'replace all' }).click();
  await expect(page.getByText('out of date').first()).toBeVisible();
  await expect(stamp(page)).toContainText('all 6 rows');
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await expect(page.getByText('4 stood already')).toBeVisible();
  await statements(page).nth(4).click();
  await expect(behind(page, 5).getByRole('row').filter({ hasText: 'Kilos, all regions' })).toContainText('100.0was null');
  await page.getByRole('button', { name: 'End the session' }).click();
  await expect(page.getByText(/kept until/)).toHaveCount(0);
  // Left as it was for others.
  await page.getByRole('button', { name: 'Undo' }).click();
});

test('statements pasted become a script; a write is refused, an error says where, and what ran is seen', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('button', { name: 'Paste SQL' }).click();
  await page
    .getByRole('textbox', { name: 'SQL text' })
    .fill('create temp table most as select 1 as a;\ndelete from coop.harvests;\nselect a from most');
  await expect(page.getByText('There are 3 statements in it.')).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByText('Statement 2: This statement writes into coop.harvests')).toBeVisible();
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'Statement 2: This statement writes into coop.harvests' })).toBeVisible();
  expect(await inDemo('select count(*) n from coop.harvests')).toEqual([{ n: '12430' }]);

  await write(
    page,
    'create temp table most (a int primary key);\ninsert into most values (1), (2);\ninsert into most values (2);\nselect a from most',
  );
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await expect(behind(page, 3)).toContainText('Statement 3: The source could not run it: duplicate key value');
  await expect(statements(page).nth(3)).toContainText('not run');
  await statements(page).nth(1).click();
  await expect(behind(page, 2)).toContainText('2 rows new');
});

test('a text that holds several statements is made a script where it stands', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('button', { name: 'Paste SQL' }).click();
  await page.getByRole('textbox', { name: 'SQL text' }).fill('create temp table t as select 4 as a;\nselect a from t');
  await page.getByRole('button', { name: 'What the text is' }).click();
  await page.getByRole('option', { name: 'text of one statement' }).click();
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.getByRole('button', { name: 'Make it a script' }).click();
  await expect(trail(page)).toContainText('Script of 2 statements');
  await expect(stamp(page)).toContainText('all 1 rows');
  // First that its fields were taken over, then that it is a script.
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Make it a script' })).toBeVisible();
});

test('a script is split in two in one session, each looked at by itself, and put together again', async ({ page, signIn }) => {
  await signIn('analyst');
  await page.getByRole('link', { name: 'A season’s figures, line by line' }).click();
  await expect(stamp(page)).toContainText('all 6 rows');
  const whole = await page.getByRole('textbox', { name: 'Script', exact: true }).innerText();
  await expect(page.getByRole('button', { name: 'Split in two' })).toBeDisabled();
  await statements(page).nth(3).click();
  await page.getByRole('button', { name: 'Split behind 4' }).click();
  // The first ends with the temp table as it stands: no share is filled in yet.
  await expect(statements(page)).toHaveCount(5);
  await expect(stamp(page)).toContainText('all 6 rows');
  await expect(page.getByRole('textbox', { name: 'Script', exact: true })).toContainText('select * from figures');
  await trail(page).getByRole('listitem').nth(1).getByRole('button').first().click();
  await expect(page.getByText('going on from')).toBeVisible();
  await expect(statements(page)).toHaveCount(2);
  await expect(stamp(page)).toContainText('all 6 rows');
  await page.getByRole('button', { name: 'Run the statements' }).click();
  await statements(page).nth(0).click();
  await expect(behind(page, 1)).toContainText('5 rows changed');
  await accessible(page);
  await page.getByRole('button', { name: 'Put both together' }).click();
  await expect(statements(page)).toHaveCount(6);
  await expect(trail(page).getByRole('listitem')).toHaveCount(1);
  await expect(stamp(page)).toContainText('all 6 rows');
  expect((await page.getByRole('textbox', { name: 'Script', exact: true }).innerText()).replace(/\s+/g, '')).toBe(
    whole.replace(/\s+/g, ''),
  );
  // Left as it was for others.
  for (let undo = 0; undo < 3; undo += 1) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(trail(page).getByRole('listitem')).toHaveCount(1);
});
