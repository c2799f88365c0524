import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwind from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [tailwind(), svelte()],
  build: { chunkSizeWarningLimit: 1200 },
  server: { proxy: { '/api': 'http://127.0.0.1:7377', '/sign-in': 'http://127.0.0.1:7377' } },
});
