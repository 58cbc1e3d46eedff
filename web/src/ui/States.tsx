import Button from '@mui/material/Button'
import { useEffect, useState, type ReactNode } from 'react'

/** Shown only when waiting lasts, so that quick answers do not flicker. */
export function Loading({ what }: { what: string }) {
  const [isLong, setLong] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), 250)
    return () => clearTimeout(timer)
  }, [])
  return isLong ? (
    <div role="status" className="empty">
      <div className="working" />
      <p>Fetching {what} …</p>
    </div>
  ) : null
}

export function Failed({ error, onRetry }: { error: Error; onRetry?: () => void }) {
  return (
    <div role="alert" className="sheet empty">
      <h2>This did not work</h2>
      <p>{error.message}</p>
      {onRetry && (
        <Button variant="outlined" onClick={onRetry}>
          Try again
        </Button>
      )}
    </div>
  )
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="sheet empty">
      <h2>{title}</h2>
      {children}
    </div>
  )
}
