import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [tailwindcss(), sveltekit()],
  build: { assetsInlineLimit: 0 },
  test: { include: ['src/**/*.test.ts', '../tests/web/**/*.test.ts'] },
  server: { fs: { allow: ['..'] } },
});
