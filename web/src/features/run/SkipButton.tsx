import { useState } from 'react'

import { useSkipRun } from '@/api/queries'
import { LinkButton } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'

/** Leaves one planned run out, with its reason. */
export function SkipButton({ runId, what }: { runId: string; what: string }) {
  const skip = useSkipRun()
  const [isAsking, setAsking] = useState(false)
  return (
    <>
      <LinkButton onClick={() => setAsking(true)} aria-label={`Skip ${what}`}>
        skip
      </LinkButton>
      {isAsking && (
        <LineDialog
          title={`Skip ${what}`}
          label="Because"
          action="Skip it"
          error={skip.error}
          isPending={skip.isPending}
          onClose={() => setAsking(false)}
          onSay={(reason) => skip.mutate({ id: runId, reason })}
        >
          It counts neither as done nor as failed, and its reason stays in the sheet. Blocks that are not
          complete weaken what is found.
        </LineDialog>
      )}
    </>
  )
}
