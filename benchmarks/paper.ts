import { createWriteStream } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { finished } from 'node:stream/promises';
import Document from 'pdfkit';
import type { Client } from './client';
import type { Line } from './line';
import { pair } from './pair';

/** A PDF of five thousand lines, and the same lines given to the library by hand. */

const LINES = 5_000;
const COLUMNS = [30, 70, 120, 180, 240, 300, 360, 430];
const A_PAGE = 58;

export async function papers(client: Client, folder: string): Promise<readonly Line[]> {
  const dataset = await client.readings(`reading_no <= ${LINES}`);
  const result = await client.run(dataset, 'full');
  await client.quiet();
  const lines: string[][] = [];
  while (lines.length < LINES) {
    const rows = await client.ask<readonly (readonly unknown[])[]>('GET', `/results/${result}/rows?offset=${lines.length}&limit=500`);
    lines.push(...rows.map((row) => row.slice(1).map(String)));
  }
  const made = await pair(
    3,
    () => client.paper(result, dataset, join(folder, 'paper.pdf')),
    () => byHand(lines, join(folder, 'by-hand.pdf')),
  );
  return [{ what: 'PDF of 5 000 lines', ...made, unit: 'ms', most: 1.3 * made.reference, rule: '1.3 × the library by hand' }];
}

/** As little as it takes: each text at its place, heads on each page. */
async function byHand(lines: readonly (readonly string[])[], file: string): Promise<void> {
  const from = createRequire(join(process.cwd(), 'apps/server/package.json'));
  const font = join(dirname(from.resolve('@fontsource/noto-sans/package.json')), 'files/noto-sans-latin-400-normal.woff');
  const doc = new Document({ autoFirstPage: false, margin: 0, size: 'A4', layout: 'landscape' });
  const out = createWriteStream(file);
  doc.pipe(out);
  for (let at = 0; at < lines.length; at++) {
    if (at % A_PAGE === 0) doc.addPage().font(font).fontSize(8.5);
    const y = 36 + (at % A_PAGE) * 9;
    lines[at]?.forEach((text, column) => {
      const x = COLUMNS[column] ?? 500;
      const placed = /^[-\d.]+$/.test(text) ? x + 50 - doc.widthOfString(text) : x;
      doc.text(text, placed, y, { lineBreak: false });
    });
    doc
      .moveTo(30, y + 9)
      .lineTo(560, y + 9)
      .lineWidth(0.2)
      .stroke();
  }
  doc.end();
  await finished(out);
}
