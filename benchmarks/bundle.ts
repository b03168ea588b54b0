import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { root } from '../scripts/setup/root';
import type { Line } from './line';

/** The first script of the web, compressed as a server would send it. */
export function bundle(): Line {
  const page = readFileSync(join(root, 'apps/web/dist/index.html'), 'utf8');
  const files = [...page.matchAll(/(?:src|href)="\/(assets\/[^"]+\.(?:js|css))"/g)].map((each) =>
    join(root, 'apps/web/dist', each[1] ?? ''),
  );
  const sizes = files.map((file) => gzipSync(readFileSync(file)).length);
  return {
    what: 'initial web bundle, gzip',
    cendra: sizes.reduce((sum, each) => sum + each, 0) / 1e6,
    reference: 0,
    unit: 'MB',
    most: 0.35,
    rule: 'under 350 kB',
  };
}
