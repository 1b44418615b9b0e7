import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const isolation = { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' };

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react()],
  server: { headers: isolation },
  preview: { headers: isolation },
  worker: { format: 'es' },
  build: { target: 'es2022', chunkSizeWarningLimit: 1600 },
  optimizeDeps: { include: ['comlink', 'three', '@react-three/fiber', 'three-mesh-bvh', '@gltf-transform/core', '@gltf-transform/extensions'] },
});
