import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

export type StandingsPage = Schemas['StandingsPage']
export type StandingLine = Schemas['StandingLine']

/** What is asked for, as the address keeps it. */
export type AskedStandings = Readonly<{
  metric?: string
  method?: string
  start?: string
  facet?: string
  machine?: string
  level?: string
  desktop?: string
  base?: string
  channel?: string
  since?: number
  until?: number
  newest_only?: boolean
  held?: string[]
}>

/** Every system on one list. */
export const standingsQuery = (asked: AskedStandings) =>
  queryOptions({
    queryKey: ['standings', asked],
    queryFn: () => answerOf(client.GET('/api/standings', { params: { query: asked } })),
    placeholderData: (before) => before,
  })

/** Says where light ends and heavy begins; null takes the bands out. */
export const useSetBands = () =>
  useChange(({ metric, bands }: { metric: string; bands: Schemas['BandsIn'] | null }) => {
    const where = { params: { path: { metric_key: metric } } }
    const address = '/api/standings/bands/{metric_key}'
    return answerOf(
      bands === null ? client.DELETE(address, where) : client.PUT(address, { ...where, body: bands }),
    )
  })
