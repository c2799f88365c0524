import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwind from '@tailwindcss/vite';
import { defineConfig } from 'vite';
import { addresses } from './build/addresses.js';
import { compressed } from './build/compressed.js';

export default defineConfig({
  plugins: [tailwind(), svelte(), addresses(), compressed()],
  server: { proxy: { '/api': 'http://127.0.0.1:7377', '/sign-in': 'http://127.0.0.1:7377' } },
});
