import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { useOverride } from '@/api/queries'
import type { FindingRow, Study } from '@/api/types'
import { LinkButton } from '@/ui/kit'

const Form = styled('form')({ display: 'flex', gap: 10, margin: '8px 0', maxWidth: 520 })

type Props = { study: Study; one: FindingRow['fair_start'][number] }

/** Puts up with a difference that forbids the comparison, for a reason that is printed; or no more. */
export function Override({ study, one }: Props) {
  const change = useOverride(study.id)
  const [reason, setReason] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    change.mutate({ key: one.key, reason })
  }
  if (one.overridden !== null) {
    return (
      <>
        {' '}
        <LinkButton
          className="noprint"
          disabled={change.isPending}
          onClick={() => change.mutate({ key: one.key, reason: null })}
        >
          Compare no more
        </LinkButton>
      </>
    )
  }
  return (
    <Form onSubmit={submit} className="noprint">
      <TextField
        label="Compare nevertheless, because"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button
        type="submit"
        variant="outlined"
        color="inherit"
        sx={{ flexShrink: 0 }}
        disabled={!reason.trim() || change.isPending}
      >
        Compare
      </Button>
      {change.error && <span role="alert">{change.error.message}</span>}
    </Form>
  )
}
