import { reactRouter } from '@react-router/dev/vite'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [tailwindcss(), reactRouter()],
  worker: { format: 'es' },
  optimizeDeps: { entries: ['app/**/*.{ts,tsx}'] },
})
