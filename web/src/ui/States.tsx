import Button from '@mui/material/Button'
import Skeleton from '@mui/material/Skeleton'
import { styled } from '@mui/material/styles'
import { useEffect, useState, type ReactNode } from 'react'

import { Sheet, Working } from './kit'

const ROOM = {
  padding: '34px 28px',
  maxWidth: '66ch',
  '& p': { margin: '6px 0 16px', color: 'var(--hm-soft)' },
} as const
const Room = styled('div')(ROOM)
const RoomySheet = styled(Sheet)(ROOM)

/** Shown only when waiting lasts, so that quick answers do not flicker. */
export function Loading({ what }: { what: string }) {
  const [isLong, setLong] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), 250)
    return () => clearTimeout(timer)
  }, [])
  return isLong ? (
    <Room role="status">
      <Working />
      <p>Fetching {what} …</p>
      <Skeleton variant="text" width="72%" />
      <Skeleton variant="text" width="54%" />
    </Room>
  ) : null
}

/** `isAway` says of an error that nothing is wrong but that somebody is away; the query asks again by itself. */
export type Trouble = Error & { isAway?: boolean }

export function Failed({ error, onRetry }: { error: Trouble; onRetry?: () => void }) {
  return (
    <RoomySheet role="alert">
      <h2>{error.isAway ? 'Waiting for it to come back' : 'This did not work'}</h2>
      <p>
        {error.message}
        {error.isAway && ' Nothing is lost: this page goes on by itself as soon as it does.'}
      </p>
      {onRetry && (
        <Button variant="outlined" onClick={onRetry}>
          Try again
        </Button>
      )}
    </RoomySheet>
  )
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <RoomySheet>
      <h2>{title}</h2>
      {children}
    </RoomySheet>
  )
}
