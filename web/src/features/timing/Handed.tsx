import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { Link } from 'react-router'

import { count } from '@/format/numbers'
import { Soft } from '@/ui/kit'

import type { useOutbox } from './outbox'

type Out = ReturnType<typeof useOutbox>

/** What was handed in, what waits, what was refused. */
export function Handed({ outbox, study, isKept }: { outbox: Out; study: string | null; isKept: boolean }) {
  const waiting = outbox.parcels.filter((one) => one.refused === null)
  const refused = outbox.parcels.filter((one) => one.refused !== null)
  return (
    <>
      {!isKept && (
        <Alert severity="warning" sx={{ mt: 1 }}>
          This browser keeps nothing: leave the page open until all is handed in.
        </Alert>
      )}
      {waiting.length > 0 && (
        <Alert severity="warning" sx={{ mt: 1 }} role="status">
          {count(waiting.length, 'result')} kept here until the server takes them: nothing is lost.{' '}
          {outbox.trouble}
        </Alert>
      )}
      {refused.map((one) => (
        <Alert
          key={one.id}
          severity="error"
          sx={{ mt: 1 }}
          action={
            <>
              <Button color="inherit" onClick={() => outbox.retry(one.id)}>
                Try again
              </Button>
              <Button color="inherit" onClick={() => outbox.drop(one.id)}>
                Drop it
              </Button>
            </>
          }
        >
          {one.results.map((result) => result.system).join(', ')}: {one.refused}
        </Alert>
      ))}
      {study && (
        <Soft as="p" role="status">
          Handed in. <Link to={`/studies/${study}/findings`}>See the findings</Link>
        </Soft>
      )}
    </>
  )
}
