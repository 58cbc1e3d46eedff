import { keepPreviousData, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'

import { answerOf, client, whileAway } from './client'
import { refresh } from './refresh'
import type { Schemas } from './types'

const ANSWERS_MS = 1500
const MOST_LOOKS = 60

const path = (id: string) => ({ params: { path: { study_id: id } } })

export const keys = {
  studies: ['studies'] as const,
  today: ['today'] as const,
  study: (id: string) => ['study', id] as const,
  part: (id: string, part: string, ...rest: string[]) => ['study', id, part, ...rest] as const,
}

export const studiesQuery = () =>
  queryOptions({
    queryKey: keys.studies,
    queryFn: () => answerOf(client.GET('/api/studies')),
    // answers that are out of date are being calculated; one that runs is asked for by its events
    refetchInterval: (query) =>
      whileAway(query) ||
      (query.state.dataUpdateCount < MOST_LOOKS &&
      query.state.data?.some((one) => one.finished && !one.is_current && one.state !== 'running')
        ? ANSWERS_MS
        : false),
  })

export const todayQuery = () =>
  queryOptions({
    queryKey: keys.today,
    queryFn: () => answerOf(client.GET('/api/today')),
  })

export const disturbancesQuery = (id: string) =>
  queryOptions({
    queryKey: keys.part(id, 'disturbances'),
    queryFn: () => answerOf(client.GET('/api/studies/{study_id}/disturbances', path(id))),
  })

export const studyQuery = (id: string) =>
  queryOptions({
    queryKey: keys.part(id, 'self'),
    queryFn: () => answerOf(client.GET('/api/studies/{study_id}', path(id))),
  })

export const sheetQuery = (id: string) =>
  queryOptions({
    queryKey: keys.part(id, 'runs'),
    queryFn: () => wholeSheet(id),
  })

/** Every page of the run sheet, one after the other, as one. */
async function wholeSheet(id: string): Promise<Schemas['RunSheetOut']> {
  const page = (after: number) =>
    answerOf(
      client.GET('/api/studies/{study_id}/runs', { params: { path: { study_id: id }, query: { after } } }),
    )
  const sheet = await page(0)
  for (let next = sheet.next_after; next !== null;) {
    const more = await page(next)
    sheet.runs.push(...more.runs)
    next = more.next_after
  }
  return { ...sheet, next_after: null }
}

/** What the study says; with what was set aside let in where that is asked. */
export const findingsQuery = (id: string, withAside = false) =>
  queryOptions({
    queryKey: keys.part(id, 'findings', ...(withAside ? ['with aside'] : [])),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/findings', {
          params: { path: { study_id: id }, query: { with_aside: withAside } },
        }),
      ),
    // with or without what was set aside: the page stays as it is until the other is there
    placeholderData: (before, query) => (query?.queryKey[1] === id ? before : undefined),
  })

export const bootPartsQuery = (id: string) =>
  queryOptions({
    queryKey: keys.part(id, 'boot-parts'),
    queryFn: () => answerOf(client.GET('/api/studies/{study_id}/boot-parts', path(id))),
  })

export const bootUnitsQuery = (id: string, runId: string) =>
  queryOptions({
    queryKey: ['boot-units', runId],
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/runs/{run_id}/boot-units', {
          params: { path: { study_id: id, run_id: runId } },
        }),
      ),
    staleTime: Infinity,
  })

export const overMachinesQuery = (id: string, row: string) =>
  queryOptions({
    queryKey: keys.part(id, 'over machines', row),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/findings/over-machines', {
          params: { path: { study_id: id }, query: { row } },
        }),
      ),
  })

export const rowNotesQuery = (id: string, row: string) =>
  queryOptions({
    queryKey: keys.part(id, 'notes', row),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/findings/notes', {
          params: { path: { study_id: id }, query: { row } },
        }),
      ),
  })

/** Differences of means and of the worst tenth of a row against one lane. */
export const tailsQuery = (id: string, row: string, against: number) =>
  queryOptions({
    queryKey: keys.part(id, 'tails', `${row} ${against}`),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/findings/tails', {
          params: { path: { study_id: id }, query: { row, against } },
        }),
      ),
  })

/** Where the noise of a row sits. */
export const noiseQuery = (id: string, row: string) =>
  queryOptions({
    queryKey: keys.part(id, 'noise', row),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/findings/noise', {
          params: { path: { study_id: id }, query: { row } },
        }),
      ),
  })

/** How a row's verdicts against one lane came about. */
export const stepsQuery = (id: string, row: string, against: number) =>
  queryOptions({
    queryKey: keys.part(id, 'steps', `${row} ${against}`),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/findings/steps', {
          params: { path: { study_id: id }, query: { row, against } },
        }),
      ),
  })

/** Ramps, and whether so many pages fit into machines of stated sizes; the last answer stays while another is asked for. */
export const rampsQuery = (id: string, query: { pages: number; reserve_mib: number; swap_mib: number }) =>
  queryOptions({
    queryKey: keys.part(id, 'ramps', JSON.stringify(query)),
    queryFn: () =>
      answerOf(client.GET('/api/studies/{study_id}/ramps', { params: { path: { study_id: id }, query } })),
    placeholderData: keepPreviousData,
  })

export const tracesQuery = (id: string, metric: string) =>
  queryOptions({
    queryKey: keys.part(id, 'traces', metric),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/traces', {
          params: { path: { study_id: id }, query: { metric } },
        }),
      ),
  })

export const columnsQuery = (id: string, metric: string) =>
  queryOptions({
    queryKey: keys.part(id, 'readings', metric),
    queryFn: () =>
      answerOf(
        client.GET('/api/studies/{study_id}/reading-columns', {
          params: { path: { study_id: id }, query: { metric } },
        }),
      ),
  })

export const captureQuery = (runId: string) =>
  queryOptions({
    queryKey: ['capture', runId],
    queryFn: () =>
      answerOf(client.GET('/api/runs/{run_id}/capture', { params: { path: { run_id: runId } } })),
    staleTime: Infinity,
  })

export const installsQuery = () =>
  queryOptions({
    queryKey: ['installs'],
    queryFn: () => answerOf(client.GET('/api/installs')),
  })

export const proceduresQuery = () =>
  queryOptions({
    queryKey: ['procedures'],
    queryFn: () => answerOf(client.GET('/api/procedures')),
    staleTime: Infinity,
  })

export const methodsQuery = () =>
  queryOptions({
    queryKey: ['methods'],
    queryFn: () => answerOf(client.GET('/api/methods')),
    staleTime: Infinity,
  })

/** A change, after which everything that it may touch is asked for anew. */
export function useChange<In, Out>(run: (asked: In) => Promise<Out>) {
  const queries = useQueryClient()
  return useMutation({ mutationFn: run, onSettled: () => refresh(queries) })
}

export const useStartFirstMile = () =>
  useChange((blocks: number) => answerOf(client.POST('/api/studies/first-mile', { body: { blocks } })))

export const useDuplicateStudy = (id: string) =>
  useChange((title: string) =>
    answerOf(client.POST('/api/studies/{study_id}/duplicate', { ...path(id), body: { title } })),
  )

export const useExtendStudy = (id: string) =>
  useChange((blocks: number) =>
    answerOf(client.POST('/api/studies/{study_id}/extend', { ...path(id), body: { blocks } })),
  )

export const useImportStudy = () =>
  useChange(({ title, files, progress, meaning }: { title: string; progress: string } & Brought) =>
    answerOf(
      client.POST('/api/studies/import', {
        params: { query: { progress } },
        body: { title, files: [] },
        bodySerializer: () => formOf(files, { title: [title], ...mapOf(meaning) }),
      }),
    ),
  )

/** What files hold and where it would go; nothing is kept yet. */
export const usePreviewIntake = (id: string) =>
  useMutation({
    mutationFn: ({ files, progress, meaning }: { progress: string } & Brought) =>
      answerOf(
        client.POST('/api/studies/{study_id}/intake/preview', {
          params: { path: { study_id: id }, query: { progress } },
          body: { files: [] },
          bodySerializer: () => formOf(files, mapOf(meaning)),
        }),
      ),
  })

export const useTakeIn = (id: string) =>
  useChange(({ files, lanes, progress, meaning }: { lanes: readonly number[]; progress: string } & Brought) =>
    answerOf(
      client.POST('/api/studies/{study_id}/intake', {
        params: { path: { study_id: id }, query: { progress } },
        body: { files: [] },
        bodySerializer: () => formOf(files, { lanes: lanes.map(String), ...mapOf(meaning) }),
      }),
    ),
  )

/** Files, and what the columns of tables among them mean where they are none of ours. */
type Brought = { files: readonly File[]; meaning?: Schemas['ColumnMap'] | null }

const mapOf = (meaning: Brought['meaning']): Record<string, readonly string[]> =>
  meaning ? { column_map: [JSON.stringify(meaning)] } : {}

export function formOf(files: readonly File[], words: Record<string, readonly string[]> = {}): FormData {
  const form = new FormData()
  for (const file of files) form.append('files', file)
  for (const [name, values] of Object.entries(words)) {
    for (const value of values) form.append(name, value)
  }
  return form
}

export const useOverride = (id: string) =>
  useChange(({ key, reason }: { key: string; reason: string | null }) =>
    answerOf(
      client.PUT('/api/studies/{study_id}/overrides/{key}', {
        params: { path: { study_id: id, key } },
        body: { reason },
      }),
    ),
  )

export const useRunStudy = (id: string) =>
  useChange(() => answerOf(client.POST('/api/studies/{study_id}/run', path(id))))

export const usePauseStudy = (id: string) =>
  useChange(() => answerOf(client.POST('/api/studies/{study_id}/pause', path(id))))

export const useStopStudy = (id: string) =>
  useChange(() => answerOf(client.POST('/api/studies/{study_id}/stop', path(id))))

export const usePlanFailedAgain = (id: string) =>
  useChange(() => answerOf(client.POST('/api/studies/{study_id}/plan-failed-again', path(id))))

export const useNoteDisturbance = (id: string) =>
  useChange((text: string) =>
    answerOf(client.POST('/api/studies/{study_id}/disturbances', { ...path(id), body: { text } })),
  )

export const useSkipRun = () =>
  useChange(({ id, reason }: { id: string; reason: string }) =>
    answerOf(client.POST('/api/runs/{run_id}/skip', { params: { path: { run_id: id } }, body: { reason } })),
  )

export const useSetRunAside = () =>
  useChange(({ id, reason }: { id: string; reason: string | null }) =>
    answerOf(
      client.PUT('/api/runs/{run_id}/set-aside', { params: { path: { run_id: id } }, body: { reason } }),
    ),
  )

export const usePlanAgain = () =>
  useChange((runId: string) =>
    answerOf(client.POST('/api/runs/{run_id}/plan-again', { params: { path: { run_id: runId } } })),
  )

export const useSetAside = () =>
  useChange(({ id, reason }: { id: string; reason: string | null }) =>
    answerOf(
      client.PATCH('/api/readings/{reading_id}', {
        params: { path: { reading_id: id } },
        body: { set_aside: reason },
      }),
    ),
  )

/** All readings and failed runs of a study, as a file. */
export const readingsFile = (id: string) =>
  answerOf(
    client.GET('/api/studies/{study_id}/readings.csv', { ...path(id), parseAs: 'blob' }),
  ) as Promise<Blob>
