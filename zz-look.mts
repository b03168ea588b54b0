import { chromium } from '@playwright/test';
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
const ctx = await b.newContext({ viewport: { width: 1280, height: 800 } });
const page = await ctx.newPage();
const say = async (what: string) => console.log(what, '|', await page.locator('input.slot').evaluateAll((e) => e.slice(-3).map((x) => (x as HTMLInputElement).value)), '|', (await page.getByRole('listbox').allInnerTexts()).join(' / ').slice(0, 160).replaceAll('\n', ' '));
try {
  await page.goto('http://127.0.0.1:4480/');
  await page.getByRole('button', { name: 'Sign in as the demo analyst' }).click();
  await page.getByRole('link', { name: 'Harvests of a season, by source and grade' }).click();
  await page.getByText(/as of /).first().waitFor();
  // a field by mouse
  await page.getByRole('button', { name: 'Add a clause' }).click(); await page.waitForTimeout(500);
  await page.mouse.move(450, 480); await page.keyboard.press('Enter'); await page.waitForTimeout(300); await say('Enter over a hovered list');
  await page.keyboard.type('mois'); await page.waitForTimeout(300); await page.keyboard.press('Tab'); await page.waitForTimeout(300); await say('mois Tab');
  await page.getByLabel('Field', { exact: true }).last().click(); await page.waitForTimeout(400); await say('clicked again');
  await page.screenshot({ path: '/tmp/w1.png' });
  await page.getByRole('option', { name: /moisture/ }).click(); await page.waitForTimeout(800); await say('clicked moisture');
  // value slot
  const value = page.getByLabel('Value for moisture').last();
  await value.click(); await page.waitForTimeout(600); await page.keyboard.press('Enter'); await page.waitForTimeout(300); await say('value Enter');
  await value.fill('16,5'); await page.keyboard.press('Enter'); await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/w2.png' });
  console.log(await page.getByRole('button', { name: /the number/ }).allInnerTexts());
  await page.getByRole('button', { name: 'the number 16.5' }).click(); await page.waitForTimeout(800); await say('16.5');
  await page.keyboard.press('Alt+o'); await page.waitForTimeout(500); await say('Alt+O');
  console.log(await page.evaluate(() => document.activeElement?.getAttribute('aria-label')));
  // parameter slot
  const source = page.getByRole('region', { name: 'Sentence' }).getByRole('button', { name: /^source:/ });
  await source.click(); await page.waitForTimeout(900);
  await page.screenshot({ path: '/tmp/w3.png' });
  await page.getByLabel('source', { exact: true }).fill('lim'); await page.keyboard.press('Tab'); await page.waitForTimeout(900);
  console.log(await page.getByRole('region', { name: 'Sentence' }).innerText());
  await source.click(); await page.getByLabel('source', { exact: true }).fill(''); await page.keyboard.press('Enter'); await page.waitForTimeout(900);
  console.log(await page.getByRole('region', { name: 'Sentence' }).innerText());
  await page.emulateMedia({ colorScheme: 'dark' });
  await page.getByRole('button', { name: /Char/ }).click(); await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/w4.png' });
} catch (e) { console.log(e); await page.screenshot({ path: '/tmp/err.png' }); }
b.close(); process.exit(0);
