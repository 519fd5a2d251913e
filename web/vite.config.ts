import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

import { sheet } from './sheet.ts'

export default defineConfig({
  plugins: [react(), sheet()],
  // The server's content policy allows no inline data for fonts or scripts.
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  // The guide is read from docs/.
  server: { fs: { allow: ['..'] }, proxy: { '/api': 'http://127.0.0.1:8710' } },
  test: {
    environment: 'jsdom',
    include: ['src/**/*.test.{ts,tsx}'],
    setupFiles: ['src/test/setup.ts'],
    testTimeout: 60_000,
    // Loading all modules anew for every file takes longer than the tests; what they share is reset by `fake.tsx`.
    isolate: false,
    maxWorkers: 2,
  },
})
