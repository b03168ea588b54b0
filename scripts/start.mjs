import { run } from './bootstrap.mjs';

await run('start.ts');
