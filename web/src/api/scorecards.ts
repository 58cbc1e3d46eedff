import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

export type ScorecardList = Schemas['ScorecardList']
export type ScorecardPage = Schemas['ScorecardPage']
export type Scorecard = Schemas['Scorecard']
export type ScorecardIn = Schemas['ScorecardIn']
export type TieChoice = Schemas['TieChoice']
export type WorksIn = Schemas['WorksIn']
export type Works = Schemas['Works']

const of = (id: string) => ({ params: { path: { system_id: id } } })

/** All systems with what is said of them. */
export const scorecardsQuery = () =>
  queryOptions({ queryKey: ['scorecards'], queryFn: () => answerOf(client.GET('/api/scorecards')) })

/** Everything that is said of one, in its newest version or the one asked for. */
export const scorecardQuery = (id: string, version: number | null = null) =>
  queryOptions({
    queryKey: ['scorecards', id, version],
    queryFn: () =>
      answerOf(
        client.GET('/api/scorecards/{system_id}', {
          params: { path: { system_id: id }, query: version === null ? {} : { version } },
        }),
      ),
  })

/** What a point can rest on. */
export const tiesQuery = (id: string) =>
  queryOptions({
    queryKey: ['scorecards', id, 'ties'],
    queryFn: () => answerOf(client.GET('/api/scorecards/{system_id}/ties', of(id))),
  })

export const useKeepScorecard = (id: string) =>
  useChange((body: ScorecardIn) => answerOf(client.PUT('/api/scorecards/{system_id}', { ...of(id), body })))

export const useNoteWorks = (id: string) =>
  useChange((body: WorksIn) =>
    answerOf(client.POST('/api/scorecards/{system_id}/works', { ...of(id), body })),
  )

/** Takes a line out of the works list, or brings it back. */
export const useChangeWorks = () =>
  useChange(({ id, isAway }: { id: string; isAway: boolean }) =>
    answerOf(
      client.PATCH('/api/scorecards/works/{works_id}', {
        params: { path: { works_id: id } },
        body: { is_put_away: isAway },
      }),
    ),
  )
