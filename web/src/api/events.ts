import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { refresh } from './refresh'
import { openEvents } from './session'
import { makeThrottle } from './throttle'
import { keys } from './queries'
import type { StudyEvent } from './types'

/** Where a run that is under way stands. */
export type LivePhase = { phase: string; atMs: number }

/** The run that a phase event speaks of, and where it then stood; null for other events. */
export function phaseOf(event: StudyEvent): [string, LivePhase] | null {
  if (event.kind !== 'run.phase' || !event.run_id) return null
  return [event.run_id, { phase: String(event.facts['phase']), atMs: Date.parse(event.at) }]
}

const GAP_MS = 250
const SHEET_ONLY = /^run\.(leased|running)$/
const EVERYTHING = /^(run\.(done|failed|lost|planned|skipped|set_aside)|study\.|reading\.|file\.)/

/** Asks anew for what an event may have changed; many events in a row ask once. */
function refreshers(queries: QueryClient, studyId: string) {
  const sheet = makeThrottle(GAP_MS, () => {
    void refresh(queries, { queryKey: keys.part(studyId, 'runs') })
    void refresh(queries, { queryKey: keys.part(studyId, 'self') })
  })
  const everything = makeThrottle(GAP_MS, () => {
    void refresh(queries, { queryKey: keys.study(studyId) })
    void refresh(queries, { queryKey: keys.studies })
  })
  return { sheet, everything }
}

/** Follows a study's events as the server sends them; tells where each live run stands. */
export function useStudyEvents(studyId: string, after: number | undefined) {
  const queries = useQueryClient()
  const [live, setLive] = useState<ReadonlyMap<string, LivePhase>>(new Map())
  const [stopped, setStopped] = useState<string | null>(null)
  const isReady = after !== undefined

  useEffect(() => {
    if (!isReady) return
    const refresh = refreshers(queries, studyId)
    const close = openEvents(`/api/events?study=${studyId}&after=${after}`, (data) => {
      const event = JSON.parse(data) as StudyEvent
      const phase = phaseOf(event)
      if (phase) setLive((now) => new Map(now).set(...phase))
      if (event.kind === 'study.stopped' || event.kind === 'machine.rests')
        setStopped(String(event.facts['reason']))
      if (event.kind === 'study.running') setStopped(null)
      if (event.kind === 'study.deleted') return setStopped('it was deleted for good')
      if (SHEET_ONLY.test(event.kind)) refresh.sheet.call()
      if (EVERYTHING.test(event.kind)) refresh.everything.call()
    })
    return () => {
      close()
      refresh.sheet.cancel()
      refresh.everything.cancel()
    }
    // `after` is where the first listening starts; the stream then goes on by itself
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [studyId, isReady, queries])

  return { live, stopped }
}
