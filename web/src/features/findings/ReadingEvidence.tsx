import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { captureFacts } from '@/api/captureFacts'
import type { FindingRow } from '@/api/types'
import { captureQuery, useSetAside } from '@/api/queries'
import { amount } from '@/format/numbers'
import { TextsDrawer } from '@/ui/TextsDrawer'

import type { ReadingLine } from './ReadingTable'

type Props = { line: ReadingLine; row: FindingRow; name: string; onClose: () => void }

/** One reading, the evidence behind it, and whether it counts. */
export function ReadingEvidence({ line, row, name, onClose }: Props) {
  const capture = useQuery(captureQuery(line.runId))
  const facts: [string, string][] = [
    [row.label, amount(line.value, { ...row.scale, decimals: row.scale.decimals + 2 })],
    ['block', String(line.block)],
    ['method', row.method],
    ...captureFacts(capture.data),
  ]
  return (
    <TextsDrawer title={name} facts={facts} texts={capture.data?.evidence ?? []} onClose={onClose}>
      <SetAside line={line} />
      {capture.isPending && <p className="soft">Fetching the evidence …</p>}
      {capture.error && <p className="soft">{capture.error.message}</p>}
    </TextsDrawer>
  )
}

function SetAside({ line }: { line: ReadingLine }) {
  const change = useSetAside()
  const [reason, setReason] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    change.mutate({ id: line.id, reason })
  }
  if (line.setAside) {
    return (
      <p>
        Set aside: {line.setAside}.{' '}
        <button className="link" disabled={change.isPending} onClick={() => change.mutate({ id: line.id, reason: null })}>
          Let it count again
        </button>
      </p>
    )
  }
  return (
    <form onSubmit={submit} style={{ display: 'flex', gap: 10, margin: '10px 0' }}>
      <TextField label="Set this reading aside, because" value={reason} onChange={(event) => setReason(event.target.value)} />
      <Button type="submit" variant="outlined" color="inherit" sx={{ whiteSpace: 'nowrap', flexShrink: 0 }} disabled={!reason.trim() || change.isPending}>
        Set aside
      </Button>
      {change.error && <span role="alert">{change.error.message}</span>}
    </form>
  )
}
