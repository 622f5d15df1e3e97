import { defineConfig } from 'vite';

// The script of a page of the tests, with the library as it is built.
export default defineConfig({
  logLevel: 'error',
  oxc: { jsx: { runtime: 'automatic' } },
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    emptyOutDir: true,
    lib: { entry: process.env.JESTRIL_PAGE ?? 'page.ts', formats: ['iife'], name: 'page', fileName: () => 'page.js' },
  },
});
