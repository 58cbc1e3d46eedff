import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { phaseOf, type LivePhase } from './events'
import { keys } from './queries'
import { refresh } from './refresh'
import { openEvents } from './session'
import { makeThrottle } from './throttle'
import type { StudyEvent } from './types'

const GAP_MS = 400
const LIST_GAP_MS = 1000

/** Keeps the list of studies as it is now: every change anywhere asks anew. */
export function useStudyListEvents() {
  const queries = useQueryClient()
  useEffect(() => {
    const anew = makeThrottle(LIST_GAP_MS, () => void refresh(queries, { queryKey: keys.studies }))
    const close = openEvents('/api/events?from_now=true', (data) => {
      if (phaseOf(JSON.parse(data) as StudyEvent) === null) anew.call()
    })
    return () => {
      close()
      anew.cancel()
    }
  }, [queries])
}

/** Follows the events of all studies; tells where each run under way stands. */
export function useTodayEvents(after: number | undefined) {
  const queries = useQueryClient()
  const [live, setLive] = useState<ReadonlyMap<string, LivePhase>>(new Map())
  const isReady = after !== undefined
  useEffect(() => {
    if (!isReady) return
    const anew = makeThrottle(GAP_MS, () => void refresh(queries, { queryKey: keys.today }))
    const close = openEvents(`/api/events?after=${after}`, (data) => {
      const event = JSON.parse(data) as StudyEvent
      const phase = phaseOf(event)
      if (phase) setLive((now) => new Map(now).set(...phase))
      else anew.call()
    })
    return () => {
      close()
      anew.cancel()
    }
    // `after` is where the first listening starts; the stream then goes on by itself
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [isReady, queries])
  return live
}
