import { defineConfig } from 'vite';

// The script and the style of the pages, which the server writes.
export default defineConfig({
  build: {
    outDir: 'dist/page',
    emptyOutDir: true,
    rollupOptions: {
      input: 'page/desk.ts',
      output: { entryFileNames: 'assets/desk.js', assetFileNames: 'assets/desk[extname]' },
    },
  },
  logLevel: 'warn',
});
