import { run } from './bootstrap.mjs';

await run('build.ts');
