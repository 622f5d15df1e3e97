import { defineConfig } from 'vite';

// The page. `vite` alone serves it while it is worked on, and hands the API to a running desk.
export default defineConfig({
  root: 'page',
  build: { outDir: '../dist/page', emptyOutDir: true },
  server: { proxy: { '/api': 'http://127.0.0.1:4310' } },
  logLevel: 'warn',
});
