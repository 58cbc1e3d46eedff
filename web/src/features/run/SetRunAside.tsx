import { useState } from 'react'

import { useSetRunAside } from '@/api/queries'
import { LinkButton } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'

import { ASIDE } from './sheetWords'

type Props = { runId: string; state: string; reason: string | null; what: string }

/** A failed run that is not to count, with its reason; or that counts again. Nothing where it could not be measured. */
export function SetRunAside({ runId, state, reason, what }: Props) {
  const change = useSetRunAside()
  const [isAsking, setAsking] = useState(false)
  if (state === 'void') {
    return reason?.startsWith(ASIDE) ? (
      <LinkButton disabled={change.isPending} onClick={() => change.mutate({ id: runId, reason: null })}>
        let it count again
      </LinkButton>
    ) : null
  }
  return (
    <>
      <LinkButton onClick={() => setAsking(true)} aria-label={`set aside: ${what}`}>
        set aside
      </LinkButton>
      {isAsking && (
        <LineDialog
          title={`Set ${what} aside`}
          label="Because"
          action="Set aside"
          error={change.error}
          isPending={change.isPending}
          onClose={() => setAsking(false)}
          onSay={(said) => change.mutate({ id: runId, reason: said }, { onSuccess: () => setAsking(false) })}
        >
          It no longer counts as a failure of the system. The run and its reasons stay in the sheet.
        </LineDialog>
      )}
    </>
  )
}
