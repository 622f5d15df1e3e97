import { defineConfig } from 'vite';

// The script of the page of the tests, with the library as it is built.
export default defineConfig({
  logLevel: 'error',
  build: { emptyOutDir: true, lib: { entry: 'page.ts', formats: ['iife'], name: 'page', fileName: () => 'page.js' } },
});
