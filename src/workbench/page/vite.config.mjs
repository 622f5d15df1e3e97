import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

// The page of the workbench; it goes into the package as it is built here.
export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  base: './',
  build: {
    outDir: fileURLToPath(new URL('../../../dist/workbench', import.meta.url)),
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 900,
  },
  oxc: { jsx: { runtime: 'automatic' } },
  logLevel: 'warn',
});
