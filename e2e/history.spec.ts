import { newDataset, saved } from './bench-steps';
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

test('an undo whose target another tab changed says so, and both sides can be kept', async ({ page, signIn }) => {
  await signIn('analyst');
  await newDataset(page, 'regions');
  await page.getByRole('link', { name: 'Fields' }).click();
  const label = (of = page) => of.getByLabel('Label', { exact: true });
  await label().fill('Mine');
  await page.keyboard.press('Enter');
  await saved(page, 2);
  const other = await page.context().newPage();
  await other.goto(page.url());
  await expect(label(other)).toHaveValue('Mine');
  await label(other).fill('Theirs');
  await other.keyboard.press('Enter');
  await saved(other, 3);
  await expect(label()).toHaveValue('Theirs');
  await page.getByRole('button', { name: 'Undo' }).click();
  const meeting = page.getByRole('alert', { name: 'Two changes meet' });
  await expect(meeting).toContainText('Somebody changed the same place meanwhile.');
  await meeting.getByRole('button', { name: 'Keep theirs' }).click();
  await expect(label()).toHaveValue('Theirs');
  await label().fill('Mine again');
  await page.keyboard.press('Enter');
  await expect(label(other)).toHaveValue('Mine again');
});
