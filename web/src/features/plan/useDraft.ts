import { useEffect, useRef, useState } from 'react'

import { useKeepDraft, type Draft } from '@/api/plan'
import type { Study } from '@/api/types'

import { draftOf } from './draft'

const TYPED_MS = 400

/** A plan that is kept as it is typed: a moment after the last change, and when the page goes away. */
export function useDraft(study: Study) {
  const [draft, setDraft] = useState(() => draftOf(study))
  const [isDirty, setDirty] = useState(false)
  const keep = useKeepDraft(study.id)
  const { mutate, mutateAsync } = keep
  const latest = useRef(draft)
  const pending = useRef(false)
  const change = (part: Partial<Draft>) => {
    latest.current = { ...latest.current, ...part }
    pending.current = true
    setDraft(latest.current)
    setDirty(true)
  }
  const sent = () => {
    pending.current = false
    setDirty(false)
    return latest.current
  }
  useEffect(() => {
    if (!isDirty) return
    const timer = setTimeout(() => mutate(sent()), TYPED_MS)
    return () => clearTimeout(timer)
  }, [draft, isDirty, mutate])
  useEffect(() => {
    const leave = () => {
      if (pending.current) mutate(sent())
    }
    window.addEventListener('pagehide', leave)
    return () => {
      window.removeEventListener('pagehide', leave)
      leave()
    }
  }, [mutate])
  const isLost = keep.isPaused || keep.failureCount > 0
  const says = keep.error
    ? `Not kept: ${keep.error.message}`
    : isLost
      ? 'Not kept yet: the server does not answer; it is tried again'
      : isDirty || keep.isPending
        ? 'keeping …'
        : 'kept as you type'
  /** Everything that was typed is with the server. */
  const flush = () => (pending.current ? mutateAsync(sent()) : Promise.resolve())
  return { draft, change, says, flush, isFailing: Boolean(keep.error) || isLost }
}
