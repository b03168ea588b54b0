import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

/** Whatever the server waits for outside of itself is listed with until when it waits, and by which test that is known. */

const source = join(process.cwd(), 'apps/server/src');
const WAITS =
  /new Promise\b|Promise\.race\(|client\.connect\(|\blookup\(|\bpipeline\(|createWriteStream\(|\bfork\(|new Worker\(|\.enter\(|\bfetch\(|connectionTimeoutMillis/g;

const found = new Map(
  readdirSync(source, { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.ts'))
    .flatMap((name) => {
      const code = readFileSync(join(source, name), 'utf8').replace(/^\s*(\/\/|\*|\/\*\*).*$/gm, '');
      const waits = code.match(WAITS)?.length ?? 0;
      return waits === 0 ? [] : [[name, waits] as const];
    }),
);

const document = readFileSync(join(process.cwd(), 'docs/reliability.md'), 'utf8');
const listed = document
  .slice(document.indexOf('## What is waited for'))
  .split('\n')
  .flatMap((line) => {
    const [, file, number] = /^\| `([^`]+)` +\| (\d+) +\|/.exec(line) ?? [];
    return file === undefined ? [] : [[file, Number(number)] as const];
  });

test('every wait in the code is listed, with the number of them in its file', () => {
  expect(Object.fromEntries(listed)).toEqual(Object.fromEntries(found));
});
