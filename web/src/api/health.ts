import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'

const EVERY_MS = 30_000

/** What every page says beside what it is about. */
export const healthQuery = () =>
  queryOptions({
    queryKey: ['health'],
    queryFn: () => answerOf(client.GET('/api/health')),
    refetchInterval: EVERY_MS,
    retry: false,
  })
