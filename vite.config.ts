import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [tailwindcss(), sveltekit()],
  worker: { format: 'es' },
  // Fonts stay files: the content security policy allows no data: fonts.
  build: { assetsInlineLimit: 0, reportCompressedSize: false },
  optimizeDeps: { include: ['comlink', 'valibot'] },
});
