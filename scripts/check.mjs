import { run } from './bootstrap.mjs';

await run('check.ts');
