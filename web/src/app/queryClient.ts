import { QueryClient } from '@tanstack/react-query'

import { whileAway } from '@/api/client'

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: 1,
      staleTime: 30_000,
      refetchOnWindowFocus: false,
      refetchInterval: whileAway,
    },
  },
})
