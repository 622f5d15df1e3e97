import { defineConfig } from 'vite';

export default defineConfig({ base: './', build: { outDir: 'dist' }, oxc: { jsx: { runtime: 'automatic' } }, logLevel: 'warn' });
