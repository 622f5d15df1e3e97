import { defineConfig } from 'vite';

// The server, and beside it the module with the rules, which the command loads.
export default defineConfig({
  build: { ssr: true, outDir: 'dist', target: 'node20', rolldownOptions: { input: { main: 'server/main.ts', rules: 'rules.ts' } } },
  logLevel: 'warn',
});
