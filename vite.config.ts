import { reactRouter } from '@react-router/dev/vite'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [tailwindcss(), reactRouter()],
  worker: { format: 'es' },
  // Its wasm lies beside its scripts; put together into one file it would not be found.
  optimizeDeps: { entries: ['app/**/*.{ts,tsx}'], exclude: ['@jsquash/jpeg'] },
})
