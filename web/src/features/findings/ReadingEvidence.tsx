import Button from '@mui/material/Button'
import Skeleton from '@mui/material/Skeleton'
import Stack from '@mui/material/Stack'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { captureFacts } from '@/api/captureFacts'
import { captureQuery, useSetAside } from '@/api/queries'
import type { FindingRow } from '@/api/types'
import type { RowReading } from '@/charts/layout/rowReadings'
import { amount } from '@/format/numbers'
import { LinkButton, Soft } from '@/ui/kit'
import { TextsDrawer } from '@/ui/TextsDrawer'

import { Correction } from './Correction'

const READINGS_FILE = 'readings-csv'
const BY_A_PERSON = ['typed', 'hand', 'recording', 'quoted']

type Props = { line: RowReading; row: FindingRow; name: string; onClose: () => void; onAside: () => void }

/** One reading, the evidence behind it, and whether it counts. */
export function ReadingEvidence({ line, row, name, onClose, onAside }: Props) {
  const capture = useQuery(captureQuery(line.runId))
  const facts: [string, string][] = [
    [row.label, amount(line.value, { ...row.scale, decimals: row.scale.decimals + 2 })],
    ['block', String(line.block)],
    ['method', row.method],
    ...captureFacts(capture.data),
  ]
  return (
    <TextsDrawer title={name} facts={facts} texts={capture.data?.evidence ?? []} onClose={onClose}>
      <SetAside line={line} onAside={onAside} />
      <Correction
        key={line.id}
        line={line}
        row={row}
        isStated={capture.data?.kind === READINGS_FILE || BY_A_PERSON.includes(row.method)}
      />
      {capture.isPending && <Skeleton variant="rounded" height={180} aria-label="Fetching the evidence" />}
      {capture.error && <Soft as="p">{capture.error.message}</Soft>}
    </TextsDrawer>
  )
}

function SetAside({ line, onAside }: { line: RowReading; onAside: () => void }) {
  const change = useSetAside()
  const [reason, setReason] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    // also told where this is closed before the answer comes; a fault stands in `change.error`
    change.mutateAsync({ id: line.id, reason }).then(onAside, () => undefined)
  }
  if (line.setAside) {
    return (
      <p>
        Set aside: {line.setAside}.{' '}
        <LinkButton disabled={change.isPending} onClick={() => change.mutate({ id: line.id, reason: null })}>
          Let it count again
        </LinkButton>
      </p>
    )
  }
  return (
    <Stack component="form" direction="row" onSubmit={submit} sx={{ gap: 1.25, my: 1.25 }}>
      <TextField
        label="Set this reading aside, because"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button
        type="submit"
        variant="outlined"
        color="inherit"
        sx={{ whiteSpace: 'nowrap', flexShrink: 0 }}
        disabled={!reason.trim() || change.isPending}
      >
        Set aside
      </Button>
      {change.error && <span role="alert">{change.error.message}</span>}
    </Stack>
  )
}
