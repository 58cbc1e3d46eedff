import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { keys, useChange } from './queries'
import type { Schemas } from './types'

const ofStudy = (id: string) => ({ params: { path: { study_id: id } } })
const ofReading = (id: string) => ({ params: { path: { reading_id: id } } })

/** Studies that were put away. */
export const putAwayQuery = () =>
  queryOptions({
    queryKey: [...keys.studies, 'put away'],
    queryFn: () => answerOf(client.GET('/api/studies', { params: { query: { put_away: true } } })),
  })

export const studyHistoryQuery = (id: string) =>
  queryOptions({
    queryKey: keys.part(id, 'history'),
    queryFn: () => answerOf(client.GET('/api/studies/{study_id}/history', ofStudy(id))),
  })

export const readingHistoryQuery = (id: string) =>
  queryOptions({
    queryKey: ['reading', id, 'history'],
    queryFn: () => answerOf(client.GET('/api/readings/{reading_id}/history', ofReading(id))),
  })

export const filesQuery = (id: string) =>
  queryOptions({
    queryKey: keys.part(id, 'files'),
    queryFn: () => answerOf(client.GET('/api/studies/{study_id}/files', ofStudy(id))),
  })

export const useChangeStudy = (id: string) =>
  useChange((body: Schemas['StudyChange']) =>
    answerOf(client.PATCH('/api/studies/{study_id}', { ...ofStudy(id), body })),
  )

/** Nothing of the study itself is asked for again: there is no answer any more. */
export function useDeleteStudy(id: string) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (title: string) =>
      answerOf(client.POST('/api/studies/{study_id}/delete-for-good', { ...ofStudy(id), body: { title } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.studies }),
  })
}

export const useChangeFile = (id: string) =>
  useChange(({ file, isPutAway }: { file: string; isPutAway: boolean }) =>
    answerOf(
      client.PATCH('/api/studies/{study_id}/files/{capture_id}', {
        params: { path: { study_id: id, capture_id: file } },
        body: { is_put_away: isPutAway },
      }),
    ),
  )

export const useCorrectReading = (id: string) =>
  useChange((body: Schemas['CorrectionIn']) =>
    answerOf(client.PUT('/api/readings/{reading_id}/correction', { ...ofReading(id), body })),
  )

export const useTakeCorrectionBack = (id: string) =>
  useChange(() => answerOf(client.DELETE('/api/readings/{reading_id}/correction', ofReading(id))))
