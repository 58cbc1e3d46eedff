import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { keys, useChange } from './queries'
import type { Schemas } from './types'

export type Quoted = Schemas['QuotedOut']
export type Photograph = Schemas['PhotographOut']

const ofStudy = (id: string) => ({ params: { path: { study_id: id } } })
const ofRun = (id: string) => ({ params: { path: { run_id: id } } })

/** Figures from elsewhere that are quoted in a study. */
export const quotedQuery = (study: string) =>
  queryOptions({
    queryKey: keys.part(study, 'quoted'),
    queryFn: () => answerOf(client.GET('/api/studies/{study_id}/quoted', ofStudy(study))),
  })

export const useQuote = (study: string) =>
  useChange((body: Schemas['QuoteIn']) =>
    answerOf(client.POST('/api/studies/{study_id}/quoted', { ...ofStudy(study), body })),
  )

export const useWithdrawQuoted = () =>
  useChange(({ id, isWithdrawn }: { id: string; isWithdrawn: boolean }) =>
    answerOf(
      client.PATCH('/api/quoted/{quoted_id}', {
        params: { path: { quoted_id: id } },
        body: { is_withdrawn: isWithdrawn },
      }),
    ),
  )

export const photographsQuery = (run: string) =>
  queryOptions({
    queryKey: ['run', run, 'photographs'],
    queryFn: () => answerOf(client.GET('/api/runs/{run_id}/photographs', ofRun(run))),
  })

export const useAddPhotograph = (run: string) =>
  useChange((body: Schemas['PhotographBesideIn']) =>
    answerOf(client.POST('/api/runs/{run_id}/photographs', { ...ofRun(run), body })),
  )

export const useWithdrawPhotograph = () =>
  useChange(({ id, isWithdrawn }: { id: string; isWithdrawn: boolean }) =>
    answerOf(
      client.PATCH('/api/photographs/{photograph_id}', {
        params: { path: { photograph_id: id } },
        body: { is_withdrawn: isWithdrawn },
      }),
    ),
  )
