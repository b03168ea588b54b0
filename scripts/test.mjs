import { run } from './bootstrap.mjs';

await run('test.ts');
