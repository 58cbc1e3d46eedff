import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import type { StudyEvent } from './types'
import { keys } from './queries'

/** Where a run that is under way stands. */
export type LiveMark = { mark: string; atMs: number }

const CHANGES = /^(run\.(leased|running|done|failed|lost|planned)|study\.|reading\.)/

/** Follows a study's events as the server sends them; tells where each live run stands. */
export function useStudyEvents(studyId: string, after: number | undefined) {
  const queries = useQueryClient()
  const [live, setLive] = useState<ReadonlyMap<string, LiveMark>>(new Map())
  const [stopped, setStopped] = useState<string | null>(null)
  const isReady = after !== undefined

  useEffect(() => {
    if (!isReady) return
    const source = new EventSource(`/api/events?study=${studyId}&after=${after}`)
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as StudyEvent
      const run = event.run_id
      if (event.kind === 'run.mark' && run) {
        const mark = String(event.facts['mark'])
        setLive((now) => new Map(now).set(run, { mark, atMs: Date.parse(event.at) }))
      }
      if (event.kind === 'study.stopped') setStopped(String(event.facts['reason']))
      if (event.kind === 'study.running') setStopped(null)
      if (CHANGES.test(event.kind)) {
        void queries.invalidateQueries({ queryKey: keys.study(studyId) })
        void queries.invalidateQueries({ queryKey: keys.studies })
      }
    }
    return () => source.close()
    // `after` is where the first listening starts; the stream then goes on by itself
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [studyId, isReady, queries])

  return { live, stopped }
}
