import { fileURLToPath } from 'node:url';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { alias: { '@cendra/core': fileURLToPath(new URL('../../packages/core/src/index.ts', import.meta.url)) } },
  server: { proxy: { '/api': process.env.CENDRA_API ?? 'http://127.0.0.1:4480' } },
  build: { target: 'es2022' },
});
