import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { accessible, expect, inDemo, test } from './support';

const chart = (page: Page) => page.getByRole('region', { name: 'Chart' });
const figures = (page: Page, of = 'Figures of the chart') => chart(page).getByRole('table', { name: of, exact: true });
const chosen = async (page: Page, slot: string, option: string) => {
  await page.getByRole('button', { name: slot }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
};

async function openProof(page: Page, name: string): Promise<void> {
  await page.getByRole('link', { name }).click();
  await page.getByRole('link', { name: 'Proof' }).click();
}

test('a proof is drawn: the same figures as a picture, as a table, in files and on paper', async ({ page, signIn }) => {
  await signIn('analyst');
  await openProof(page, 'Yield by region, season by season');
  await expect(chart(page).locator('svg .recharts-bar-rectangle').first()).toBeVisible();
  const [apart] = await inDemo<{ of2024: string }>(
    `select round(sum(h.kilos), 2)::text as of2024 from coop.harvests h join coop.apiaries a on upper(trim(a.code)) = upper(trim(h.apiary_code))
     join coop.districts d on d.code = a.district_code where d.region_code = 'SM' and extract(year from h.picked_on) = 2024`,
  );
  const spaced = apart?.of2024.replace(/\B(?=(\d{3})+\.)/g, '\u202f') ?? '';
  await expect(figures(page).getByRole('row', { name: /^SM / })).toContainText(spaced);
  await expect(chart(page).getByRole('list', { name: 'Series' }).getByRole('listitem')).toHaveText([
    '2021',
    '2022',
    '2023',
    '2024',
    '2025',
  ]);
  await accessible(page);

  const [drawing] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Take the chart as SVG' }).click()]);
  const svg = readFileSync(await drawing.path(), 'utf8');
  expect(drawing.suggestedFilename()).toBe('Yield by region, season by season.svg');
  for (const word of ['>2024<', '>SM<', 'sum of Kilos by Region code', 'rows, complete', 'As of ']) expect(svg).toContain(word);
  expect(svg).not.toContain('var(--');
  const [picture] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'as PNG' }).click()]);
  expect(
    readFileSync(await picture.path())
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG');

  const takePaper = async (format: RegExp) => {
    await page.getByRole('button', { name: 'Take away' }).click();
    const [taken] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: format }).click()]);
    return readFileSync(await taken.path());
  };
  const pdf = await takePaper(/^PDF/);
  expect([pdf.includes('/Subtype /Image'), pdf.includes('/DCTDecode')]).toEqual([true, true]);
  expect((await takePaper(/^HTML/)).toString('utf8')).toMatch(
    /<img src="data:image\/jpeg;base64,[^"]{2000,}" alt="sum of Kilos by Region code/,
  );

  await chosen(page, 'How it is drawn', 'lines');
  await expect(chart(page).locator('svg .recharts-line-curve').first()).toBeVisible();
  await chosen(page, 'Figure that is drawn', 'average');
  await expect(chart(page)).toContainText('average of Kilos by Region code, a series per Season, as lines');
  // Without columns per value the second level is drawn, a small chart for each of the first.
  await page.getByRole('button', { name: 'No columns per Season' }).click();
  await expect(figures(page, 'Figures of the chart, FN').getByRole('row')).toHaveCount(8);

  await page.evaluate(() => {
    window.print = () => undefined;
  });
  await page.getByRole('button', { name: 'Print', exact: true }).click();
  await expect(page.locator('.print-sheet figure svg path').first()).toBeAttached();
  await expect(page.locator('.print-sheet')).toContainText('average of Kilos by Floral source, a chart per Region code, as lines');
  await page.evaluate(() => window.dispatchEvent(new Event('afterprint')));

  await page.getByRole('button', { name: 'Draw nothing' }).click();
  await expect(chart(page)).toHaveCount(0);
  await page.getByRole('button', { name: 'Draw it' }).click();
  await expect(figures(page, 'Figures of the chart, FN').getByRole('row')).toHaveCount(8);
  // Left as it was.
  for (let edits = 0; edits < 5; edits++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(chart(page)).toContainText('sum of Kilos by Region code, a series per Season, as bars side by side');
});

test('lines that do not begin at zero say so', async ({ page, signIn }) => {
  await signIn('analyst');
  await openProof(page, 'Weekly weights of six hives');
  await expect(chart(page)).toContainText('The scale does not begin at zero.');
  await expect(chart(page).getByRole('list', { name: 'Series' }).getByRole('listitem')).toHaveCount(6);
  await chosen(page, 'How it is drawn', 'areas');
  await expect(chart(page)).not.toContainText('The scale does not begin at zero.');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(chart(page)).toContainText('The scale does not begin at zero.');
});

test('a title by hand says what was chosen, on the screen and on paper', async ({ page, signIn }) => {
  await signIn('analyst');
  await openProof(page, 'Harvests worth delivering');
  const heading = page.getByRole('region', { name: 'Proof' }).getByRole('heading', { level: 2 });
  const own = await heading.textContent();
  const title = page.getByLabel('Title of the proof', { exact: true });
  await title.fill('Harvests of :min_kilos kg and more, :sorted');
  await title.press('Enter');
  await expect(heading).toHaveText(/^Harvests of \d+ kg and more, :sorted$/);
  await expect(page.getByText('There is no parameter :sorted.')).toBeVisible();
  await title.fill('Harvests of :min_kilos kg and more: [sum of Kilos] kg, [sum of honey] jars');
  await title.press('Enter');
  await expect(page.getByText('There is no parameter :sorted.')).toHaveCount(0);
  await expect(page.getByText('No field is called as in [sum of honey].')).toBeVisible();
  await title.fill('Harvests of :min_kilos kg and more: [sum of Kilos] kg');
  await title.press('Enter');
  await expect(title).toHaveValue('Harvests of :min_kilos kg and more: [sum of Kilos] kg');
  // The figure is that of all rows, as the proof itself has it.
  await expect(heading).toHaveText(/: [\d\u202f]+\.\d+ kg$/);
  const [, figure = ''] = /: (\S+) kg$/.exec((await heading.textContent()) ?? '') ?? [];
  const everything = page.getByRole('row', { name: /^Everything, sum/ });
  await page.getByRole('table', { name: 'Lines of the proof' }).evaluate((box) => box.scrollTo({ top: box.scrollHeight }));
  await expect(everything).toContainText(figure);
  await page.getByLabel('Subtitle of the proof').fill('Jars of [count of Kilos] harvests');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Proof' }).getByText(/^Jars of [\d\u202f]+ harvests$/)).toBeVisible();
  await page.getByLabel('Note below the title').fill('Weighed at the extractor');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Proof' }).getByText('Weighed at the extractor')).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Take away' }).click();
  const [paper] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: 'Markdown' }).click()]);
  const written = readFileSync(await paper.path(), 'utf8');
  expect(written).toMatch(
    /^# Harvests of \d+ kg and more: [\d\u202f.]+ kg\n\n## Jars of [\d\u202f]+ harvests\n\nWeighed at the extractor\n/,
  );
  expect(written).toContain('asked by Barnaby Quill.');
  for (let edits = 0; edits < 5; edits++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(heading).toHaveText(own ?? '');
});
