import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwind from '@tailwindcss/vite';
import { defineConfig } from 'vite';
import { compressed } from './build/compressed.js';
import { contract } from './build/contract.js';

export default defineConfig({
  plugins: [tailwind(), svelte(), contract(), compressed()],
  server: { proxy: { '/api': 'http://127.0.0.1:7377', '/sign-in': 'http://127.0.0.1:7377' } },
});
