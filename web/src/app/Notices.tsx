import { useQuery } from '@tanstack/react-query'

import { ProblemError } from '@/api/client'
import { healthQuery } from '@/api/health'
import { sessionQuery } from '@/api/people'
import { Banner } from '@/ui/kit'

const SIGNED_OUT = 401

/** Says where this browser is not signed in any more, or where others may listen. */
export function Overheard() {
  const me = useQuery(sessionQuery())
  if (me.error instanceof ProblemError && me.error.status === SIGNED_OUT) {
    return (
      <Banner role="alert">
        This browser is not signed in any more. <a href="/enter">Sign in</a> to go on.
      </Banner>
    )
  }
  if (!me.data?.is_overheard) return null
  const may =
    me.data.way === 'paired device'
      ? 'This paired device only does what belongs to a run at the bench.'
      : 'Here you can look, and change nothing.'
  return (
    <Banner role="note">
      This network connection is not encrypted: others on the network can overhear it. {may}
    </Banner>
  )
}

/** Says that the disk is nearly full, or is; until there is room again. */
export function DiskWord() {
  const health = useQuery(healthQuery())
  return health.data?.disk ? <Banner role="alert">{health.data.disk}</Banner> : null
}
