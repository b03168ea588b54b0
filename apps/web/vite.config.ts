import { createHash } from 'node:crypto';
import { createReadStream, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import type { Plugin } from 'vite';
import { defineConfig } from 'vite';

const GRAMMAR = join(dirname(createRequire(import.meta.url).resolve('libpg-query')), 'libpg-query.wasm');

/** The grammar's library asks for its WebAssembly beside the worker's script, under a name that stands in its code. */
function grammarBesideItsWorker(): Plugin {
  return {
    name: 'grammar-beside-its-worker',
    transform(code, id) {
      if (this.environment.mode === 'dev' || !id.endsWith('libpg-query.js')) return undefined;
      const source = readFileSync(GRAMMAR);
      const name = `libpg-query-${createHash('sha256').update(source).digest('hex').slice(0, 8)}.wasm`;
      this.emitFile({ type: 'asset', fileName: `assets/${name}`, source });
      return { code: code.replaceAll('"libpg-query.wasm"', JSON.stringify(name)), map: null };
    },
    configureServer(server) {
      server.middlewares.use((request, response, next) => {
        if (request.url?.split('?')[0]?.endsWith('/libpg-query.wasm') !== true) return next();
        response.setHeader('content-type', 'application/wasm');
        createReadStream(GRAMMAR).pipe(response);
      });
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), grammarBesideItsWorker()],
  worker: { format: 'es', plugins: () => [grammarBesideItsWorker()] },
  resolve: { alias: { '@cendra/core': fileURLToPath(new URL('../../packages/core/src/index.ts', import.meta.url)) } },
  optimizeDeps: { exclude: ['libpg-query'] },
  server: { proxy: { '/api': process.env.CENDRA_API ?? 'http://127.0.0.1:4480' } },
  build: { target: 'es2022' },
});
