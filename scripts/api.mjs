import { run } from './bootstrap.mjs';

await run('api.ts');
