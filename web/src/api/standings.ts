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

export type TotalsPage = Schemas['TotalsPage']

/** What is asked of totals, as the address keeps it; weights as `PART:WEIGHT`. */
export type AskedTotals = Readonly<{
  study?: string
  machine?: string
  weight?: string[]
  reference?: string
  set_id?: string
  nothing?: number
  hundred?: number
}>

/** Several measures as one index. */
export const totalsQuery = (asked: AskedTotals) =>
  queryOptions({
    queryKey: ['totals', asked],
    queryFn: () => answerOf(client.GET('/api/totals', { params: { query: asked } })),
    placeholderData: (before) => before,
  })

/** Keeps weights under a name. */
export const useKeepSet = () =>
  useChange((body: Schemas['WeightSetIn']) => answerOf(client.POST('/api/totals/sets', { body })))

/** Puts a set of weights away, or brings it back. */
export const usePutSetAway = () =>
  useChange(({ id, isAway }: { id: string; isAway: boolean }) =>
    answerOf(
      client.PATCH('/api/totals/sets/{set_id}', {
        params: { path: { set_id: id } },
        body: { is_put_away: isAway },
      }),
    ),
  )

export type SeriesPage = Schemas['SeriesPage']

export type AskedSeries = Readonly<{
  metric?: string
  method?: string
  start?: string
  facet?: string
  series?: string
}>

/** An edition over its releases, or an install over the months. */
export const seriesQuery = (asked: AskedSeries) =>
  queryOptions({
    queryKey: ['series', asked],
    queryFn: () => answerOf(client.GET('/api/series', { params: { query: asked } })),
    placeholderData: (before) => before,
  })

export type FitsPage = Schemas['FitsPage']
export type FitLine = Schemas['FitLine']

export type AskedFit = Readonly<{
  machine?: string
  memory?: string
  space?: string
  architecture?: string
  set_id?: string
}>

/** Which system for this machine. */
export const fitsQuery = (asked: AskedFit) =>
  queryOptions({
    queryKey: ['fits', asked],
    queryFn: () => answerOf(client.GET('/api/fits', { params: { query: asked } })),
    placeholderData: (before) => before,
    retry: false,
  })
