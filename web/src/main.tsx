import '@fontsource-variable/atkinson-hyperlegible-next/index.css'
import '@fontsource-variable/literata/index.css'
import '@fontsource/atkinson-hyperlegible-mono/index.css'

import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { RouterProvider } from 'react-router/dom'

import { isPassing } from './api/client'
import { router } from './app/router'
import { loadTheRest } from './parts/later'
import { followScheme } from './theme/scheme'
import { system } from './theme/system'

followScheme()
// Once the page stands and has asked for what it shows.
window.addEventListener('load', () => window.setTimeout(() => void loadTheRest(), 1500))

const client = new QueryClient({
  defaultOptions: {
    queries: { retry: (count, error) => isPassing(error) && count < 5, staleTime: 5_000, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
})

const root = document.getElementById('root')
if (!root) throw new Error('index.html has no element #root.')
createRoot(root).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ChakraProvider>
  </StrictMode>,
)
