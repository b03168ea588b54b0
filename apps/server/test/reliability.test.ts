import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

/** What the documentation promises under a fault is shown by a test that exists. */

const rows = readFileSync(join(process.cwd(), 'docs/reliability.md'), 'utf8')
  .split('\n')
  .filter((line) => line.startsWith('| ') && !line.startsWith('| ---') && !line.startsWith('| What happens') && !line.startsWith('| Where'))
  .map((line) => line.split(' | ').map((cell) => cell.replace(/^\||\|$/g, '').trim()))
  .map((cells) => [cells[0], cells[1], cells.at(-1)] as const);
const folder = join(process.cwd(), 'apps/server/test');
const tests = readdirSync(folder, { recursive: true, encoding: 'utf8' })
  .filter((name) => name.endsWith('.test.ts'))
  .map((name) => readFileSync(join(folder, name), 'utf8'))
  .join('\n');

test.each(rows)('%s: %s', (_fault, promise, named = '') => {
  expect(promise).not.toBe('');
  expect(named === '' || tests.includes(`'${named}'`)).toBe(true);
  expect(named).not.toBe('');
});

test('there are promises', () => {
  expect(rows.length).toBeGreaterThan(15);
});
