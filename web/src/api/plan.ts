import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { answerOf, client, isAway } from './client'
import { keys, useChange } from './queries'
import type { Schemas, Study } from './types'

const ofStudy = (id: string) => ({ params: { path: { study_id: id } } })

/** Everything that is typed of a plan, its title with it. */
export type Draft = NonNullable<Study['draft']> & { title: string }

const AGAIN_MS = 2000

/** Repeats of a plan of which nothing else is said. */
export const USUAL_REPEATS = 12

/** Begins to plan a study. */
export const useCreateDraft = () =>
  useChange((title: string) => answerOf(client.POST('/api/studies/drafts', { body: { title } })))

type Wanted = Pick<Draft, 'title' | 'procedures'> & Partial<Pick<Draft, 'installs' | 'systems' | 'machines'>>

/** Begins to plan a study of these installs, or of systems on machines whose installs are still to be chosen; its id. */
export const usePlanOf = () =>
  useChange(async (wanted: Wanted) => {
    const made = await answerOf(client.POST('/api/studies/drafts', { body: { title: wanted.title } }))
    const body = { ...wanted, blocks: USUAL_REPEATS }
    await answerOf(client.PUT('/api/studies/{study_id}/draft', { ...ofStudy(made.id), body }))
    return made.id
  })

/** Keeps a plan as it is typed; where the server is away it is tried again until it is back. */
export function useKeepDraft(id: string) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Draft) =>
      answerOf(client.PUT('/api/studies/{study_id}/draft', { ...ofStudy(id), body })),
    scope: { id: `draft ${id}` },
    retry: (_count, error) => isAway(error),
    retryDelay: AGAIN_MS,
    networkMode: 'always',
    onSuccess: (_, body) => {
      const { title, ...draft } = body
      queries.setQueryData<Study>(keys.part(id, 'self'), (known) => known && { ...known, title, draft })
      void queries.invalidateQueries({ queryKey: keys.studies, refetchType: 'none' })
    },
  })
}

export const useStartStudy = (id: string) =>
  useChange(() => answerOf(client.POST('/api/studies/{study_id}/start', ofStudy(id))))

/** What a plan will tell and cost, while it is typed; null where nothing can be told yet. */
export const outlookQuery = (draft: Draft) => {
  const { installs, blocks, margins, procedures, interim_looks, order } = draft
  const looks = Math.max(interim_looks.length, 1)
  const body = { installs, blocks, margins, procedures, looks, order }
  return queryOptions({
    queryKey: ['outlook', body],
    queryFn: () => answerOf(client.POST('/api/studies/outlook', { body })),
    enabled: installs.length > 0 && procedures.length > 0,
    placeholderData: (before) => before,
    staleTime: 60_000,
    retry: false,
  })
}

export const metricsQuery = () =>
  queryOptions({
    queryKey: ['metrics'],
    queryFn: () => answerOf(client.GET('/api/metrics')),
    staleTime: Infinity,
  })

/** A system on a virtual machine, made where it is not there yet. */
export const usePutOn = () =>
  useChange((body: Schemas['PlaceIn']) => answerOf(client.POST('/api/installs', { body })))
