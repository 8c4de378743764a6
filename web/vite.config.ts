import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compression } from 'vite-plugin-compression2';

export default defineConfig({
  // Compressed once, here, and served so; fonts are compressed by themselves.
  plugins: [
    react(),
    compression({ include: /\.(js|css|html|svg)$/, algorithms: ['gzip', 'brotliCompress'] }),
  ],
  server: { proxy: { '/api': 'http://127.0.0.1:4600' } },
  // One style sheet: rules of one screen hold on others, whichever was there first.
  build: { chunkSizeWarningLimit: 900, sourcemap: false, cssCodeSplit: false },
});
