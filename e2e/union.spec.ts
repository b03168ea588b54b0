import { addStep, newDataset, stamp, thin, trail } from './bench-steps';
import { accessible, expect, inDemo, test } from './support';

test.use({ actionTimeout: 15_000 });

test('deliveries and advances stand in one list that says which is which', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'deliveries');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Union');
  await page.getByLabel('What to bring in').fill('advances');
  await page.getByRole('option', { name: /^advances/ }).click();
  const fields = page.getByRole('table', { name: 'Stacked fields' });
  await expect(fields.getByRole('textbox', { name: 'Name of kilos' })).toBeVisible();
  const [all] = await inDemo<{ n: string }>('select (select count(*) from coop.deliveries) + (select count(*) from coop.advances) n');
  await expect(stamp(page)).toContainText(`of ${thin(Number(all?.n))} rows`);

  // What one side lacks is lined up by hand: the day of both is dragged to one line, which leaves none of its own.
  const name = (line: string) => fields.getByRole('textbox', { name: `Name of ${line}`, exact: true });
  await fields.getByTitle('Drag paid_on to another line').hover();
  await page.mouse.down();
  const there = await fields.getByRole('button', { name: 'delivered_on in input 2: null' }).boundingBox();
  await page.mouse.move((there?.x ?? 0) + 4, (there?.y ?? 0) + 8, { steps: 8 });
  await page.mouse.up();
  const day = fields.getByRole('button', { name: 'delivered_on in input 2: paid_on' });
  await expect(day).toBeVisible();
  await expect(name('paid_on')).toHaveCount(0);
  // By keys it goes to the line below and back, and the focus goes with it.
  await day.focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(day).toHaveCount(0);
  await expect(page.getByText(/^paid_on is .* now\.$/)).toBeAttached();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(day).toBeFocused();
  // Two that differ in type are told, and converted only on purpose.
  await fields.getByRole('button', { name: /^buyer_code in input 2: / }).click();
  await page.getByRole('option', { name: 'amount', exact: true }).click();
  await expect(page.getByText(/buyer_code is .* in different inputs/)).toBeVisible();
  // What each type would lose is counted before one is taken.
  await expect(page.getByRole('button', { name: /^Take all of them as decimal.* values are lost$/ })).toBeVisible();
  await page.getByRole('button', { name: 'Take all of them as text, nothing is lost' }).click();
  await expect(page.getByText(/in different inputs/)).toHaveCount(0);
  await page.getByRole('checkbox', { name: 'say where each row came from' }).click();
  await expect(page.getByLabel('What input 2 is called')).toHaveValue('rows of advances');
  await expect(page.getByText('One row is a row of deliveries or row of advances')).toBeVisible();
  await accessible(page);
});

test('a dozen inputs leave the trail its words, and the sentence tells their number', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'regions');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Union');
  for (let inputs = 2; inputs <= 12; inputs += 1) {
    if (inputs > 2) await page.getByRole('button', { name: 'One more input …' }).click();
    await page.getByLabel('What to bring in').fill('regions');
    await page
      .getByRole('option', { name: /^regions/ })
      .first()
      .click();
    await expect(trail(page).getByRole('listitem')).toHaveCount(inputs + 1);
  }
  await expect(stamp(page)).toContainText('all 48 rows');
  const line = trail(page).getByRole('button', { name: /^12 inputs on top of one another/ });
  expect((await line.boundingBox())?.width).toBeGreaterThan(80);
});
