import { defineConfig } from 'vite';

// The API. What comes from the workspace is bundled; express and the database stay packages.
export default defineConfig({
  build: { ssr: 'server/main.ts', outDir: 'dist/server', target: 'node20' },
  logLevel: 'warn',
});
