import '@fontsource-variable/atkinson-hyperlegible-next/index.css'
import '@fontsource-variable/literata/index.css'
import '@fontsource/atkinson-hyperlegible-mono/index.css'
import 'virtual:sheet.css'

import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { RouterProvider } from 'react-router/dom'

import { isPassing } from './api/client'
import { fetchAhead } from './app/ahead'
import { router } from './app/router'
import { loadTheRest } from './parts/later'
import { followScheme } from './theme/scheme'
import { system } from './theme/system'

const LOOK_MS = 500

followScheme()

const client = new QueryClient({
  defaultOptions: {
    queries: { retry: (count, error) => isPassing(error) && count < 5, staleTime: 5_000, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
})

const root = document.getElementById('root')
if (!root) throw new Error('index.html has no element #root.')
void fetchAhead(client, location.pathname).then(() =>
  createRoot(root).render(
    <StrictMode>
      <ChakraProvider value={system}>
        <QueryClientProvider client={client}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </ChakraProvider>
    </StrictMode>,
  ),
)

// Once the page stands and has what it shows.
const settle = () => {
  if (client.isFetching() > 0) window.setTimeout(settle, LOOK_MS)
  else void loadTheRest()
}
window.addEventListener('load', () => window.setTimeout(settle, LOOK_MS))
