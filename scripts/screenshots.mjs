import { run } from './bootstrap.mjs';

await run('screenshots.ts');
