import type { Page } from '@playwright/test';
import { addStep, newDataset, saved } from './bench-steps';
import { accessible, expect, test } from './support';

test('twenty edits are undone by name and redone', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'regions');
  await page.getByRole('link', { name: 'Fields' }).click();
  const description = page.getByLabel('Description of the dataset');
  for (let edit = 1; edit <= 20; edit++) {
    await description.fill(`Regions, version ${edit}`);
    await description.press('Control+Enter');
    await expect(description).toHaveValue(`Regions, version ${edit}`);
  }
  await saved(page, 21);
  const undo = page.getByRole('button', { name: 'Undo' });
  await expect(undo).toHaveAttribute('title', 'Undo: described the dataset: Regions, version 20');
  for (let edit = 19; edit >= 1; edit--) {
    await undo.click();
    await expect(description).toHaveValue(`Regions, version ${edit}`);
  }
  await undo.click();
  await expect(description).toHaveValue('');
  await expect(undo).toBeDisabled();
  const redo = page.getByRole('button', { name: 'Redo' });
  await expect(redo).toHaveAttribute('title', 'Redo: described the dataset: Regions, version 1');
  for (let edit = 1; edit <= 20; edit++) await redo.click();
  await expect(description).toHaveValue('Regions, version 20');
  await saved(page, 61);
});

test('revisions are compared in words, and an older one is taken back and undone', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'districts');
  await page.getByRole('button', { name: 'Take all' }).click();
  await saved(page, 2);
  await page.getByRole('link', { name: 'Fields' }).click();
  await page.getByLabel('Label', { exact: true }).fill('District');
  await page.keyboard.press('Enter');
  await saved(page, 3);
  await page.getByLabel('Add a tag').fill('places');
  await page.keyboard.press('Enter');
  await saved(page, 4);
  await page.getByRole('button', { name: 'History' }).click();
  const revisions = page.getByRole('list', { name: 'Revisions' }).getByRole('listitem');
  await expect(revisions).toHaveCount(4);
  await expect(revisions.first()).toContainText('tagged it places');
  await expect(revisions.first()).toContainText('Barnaby Quill');
  await revisions.nth(2).getByRole('button').click();
  const comparison = page.getByRole('region', { name: 'Comparison' });
  await expect(comparison).toContainText('From r2 to r4, which is now');
  await expect(comparison.getByRole('listitem')).toHaveText(['tagged it places', 'labelled code “District”']);
  await accessible(page);
  // Also where the list is scrolled it comes into sight.
  await page.setViewportSize({ width: 1280, height: 420 });
  await revisions.nth(3).scrollIntoViewIfNeeded();
  await expect(comparison).toBeInViewport();
  await page.setViewportSize({ width: 1280, height: 800 });
  await revisions.nth(1).getByRole('button').click();
  await expect(comparison).toContainText('From r2 to r3');
  await expect(comparison.getByRole('listitem')).toHaveText(['labelled code “District”']);
  await comparison.getByRole('button', { name: 'Go back to r2' }).click();
  await saved(page, 5);
  await expect(page.getByLabel('Label', { exact: true })).toHaveValue('Code');
  await expect(revisions.first()).toContainText('went back to revision 2:');
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute('title', 'Undo: went back to revision 2');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Label', { exact: true })).toHaveValue('District');
  await expect(page.getByRole('button', { name: 'Take off the tag places' })).toBeVisible();
});

test('fields are put in another order by dragging, and back by undo', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'regions');
  await page.getByRole('button', { name: 'Take all' }).click();
  await page.getByRole('link', { name: 'Fields' }).click();
  const lines = page.getByRole('list', { name: 'Fields handed over' }).getByRole('listitem');
  const first = page.getByRole('button', { name: 'Move code' });
  await first.hover();
  await page.mouse.down();
  const below = await lines.nth(1).boundingBox();
  await page.mouse.move((below?.x ?? 0) + 10, (below?.y ?? 0) + 10, { steps: 5 });
  await page.mouse.move((below?.x ?? 0) + 10, (below?.y ?? 0) + 20, { steps: 5 });
  await page.mouse.up();
  await expect(lines.first()).toContainText('name');
  await expect(page.getByRole('button', { name: 'Undo' })).toHaveAttribute(
    'title',
    'Undo: changed the order of the fields that are handed over',
  );
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lines.first()).toContainText('code');
});

const label = (page: Page) => page.getByLabel('Label', { exact: true });
const meeting = (page: Page) => page.getByRole('alert', { name: 'Two changes meet' });

/** The field sheet of a new dataset whose first field is labelled Mine. */
async function labelled(page: Page): Promise<void> {
  await newDataset(page, 'regions');
  await page.getByRole('link', { name: 'Fields' }).click();
  await label(page).fill('Mine');
  await page.keyboard.press('Enter');
  await saved(page, 2);
}

/** Somebody writes a label in another page. */
async function labelsIn(other: Page, before: string, after: string): Promise<void> {
  await expect(label(other)).toHaveValue(before);
  await label(other).fill(after);
  await other.keyboard.press('Enter');
}

test('edits of one person follow one another, whatever tabs they are made in', async ({ page, signIn }) => {
  await signIn('analyst');
  await labelled(page);
  const other = await page.context().newPage();
  await other.goto(page.url());
  await labelsIn(other, 'Mine', 'Of the other tab');
  await saved(other, 3);
  await expect(label(page)).toHaveValue('Of the other tab');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(label(page)).toHaveValue('Code');
  await saved(page, 4);
  await expect(label(other)).toHaveValue('Code');
  await expect(meeting(page)).toHaveCount(0);
});

test('where two people change one place both sides are told, either stays, and what is done meanwhile is kept', async ({
  page,
  signIn,
  browser,
  cendra,
}) => {
  await signIn('analyst');
  await labelled(page);
  const elsewhere = await browser.newContext();
  const steward = await elsewhere.newPage();
  await steward.goto(cendra);
  await steward.getByRole('button', { name: 'Sign in as the demo steward' }).click();
  await expect(steward.getByRole('navigation', { name: 'Main' })).toBeVisible();
  await steward.goto(page.url());
  await labelsIn(steward, 'Mine', 'Theirs');
  await expect(label(page)).toHaveValue('Theirs');
  const undo = page.getByRole('button', { name: 'Undo' });
  await undo.click();
  await expect(meeting(page)).toContainText('You took the label off code. This is not saved.');
  await expect(meeting(page)).toContainText(/labelled code “Theirs”, r3/);
  await expect(undo).toBeDisabled();
  await page.getByLabel('Add a tag').fill('places');
  await page.keyboard.press('Enter');
  const tag = page.getByRole('button', { name: 'Take off the tag places' });
  await expect(tag).toBeVisible();
  await accessible(page);
  await meeting(page).getByRole('button', { name: 'Keep what is saved' }).click();
  await expect(label(page)).toHaveValue('Theirs');
  await expect(tag).toBeVisible();
  await saved(page, 4);

  await label(page).fill('Mine again');
  await page.keyboard.press('Enter');
  await labelsIn(steward, 'Mine again', 'Theirs again');
  await expect(label(page)).toHaveValue('Theirs again');
  await undo.click();
  await meeting(page).getByRole('button', { name: 'Keep mine' }).click();
  await expect(label(steward)).toHaveValue('Theirs');
  await elsewhere.close();
});

test('what was done is undone and redone after a reload too', async ({ page, signIn }) => {
  await signIn('analyst');
  await labelled(page);
  await page.reload();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(label(page)).toHaveValue('Code');
  await saved(page, 3);
  await page.reload();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(label(page)).toHaveValue('Mine');
});

test('a dataset is called by what it keeps until it is named, and again when its title is emptied', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'regions');
  const title = page.getByLabel('Title of the dataset');
  await expect(title).toHaveValue('Regions');
  await page.getByRole('button', { name: 'Take all' }).click();
  await addStep(page, 'Criteria');
  await page.getByLabel('Field', { exact: true }).fill("name <> ''");
  await page.keyboard.press('Enter');
  await expect(title).toHaveValue('Regions by name');
  await title.fill('Places we deliver to');
  await title.press('Enter');
  await expect(page.getByText(/, saved/)).toBeVisible();
  await title.fill('');
  await title.press('Enter');
  await expect(title).toHaveValue('Regions by name');
  await expect(page.getByText(/, saved/)).toBeVisible();
  await page.getByRole('link', { name: 'Datasets' }).click();
  await page.getByRole('button', { name: 'What to do with Regions by name' }).first().click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('New title of Regions by name').fill('Regions we know');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('link', { name: 'Regions we know' })).toBeVisible();
});
