import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Stack from '@mui/material/Stack'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { readingHistoryQuery, useCorrectReading, useTakeCorrectionBack } from '@/api/corrections'
import type { FindingRow } from '@/api/types'
import type { RowReading } from '@/charts/layout/rowReadings'
import { amount } from '@/format/numbers'
import { ActLines } from '@/ui/ActLines'
import { LinkButton, SoftSmall } from '@/ui/kit'

type Props = { line: RowReading; row: FindingRow }

/** Another value in the place of one that a person or a file stated; and what became of it so far. */
export function Correction({ line, row, isStated }: Props & { isStated: boolean }) {
  const [isOpen, setOpen] = useState(false)
  const back = useTakeCorrectionBack(line.id)
  const fine = { ...row.scale, decimals: row.scale.decimals + 2 }
  return (
    <div>
      {line.valueBefore !== null && (
        <p>
          Corrected by hand; before: {amount(line.valueBefore, fine)}.{' '}
          <LinkButton disabled={back.isPending} onClick={() => back.mutate()}>
            Take the correction back
          </LinkButton>
        </p>
      )}
      {isOpen && <CorrectionForm line={line} row={row} onDone={() => setOpen(false)} />}
      {isStated && !isOpen && <LinkButton onClick={() => setOpen(true)}>Correct the value</LinkButton>}
      <History id={line.id} />
    </div>
  )
}

function CorrectionForm({ line, row, onDone }: Props & { onDone: () => void }) {
  const change = useCorrectReading(line.id)
  const [value, setValue] = useState('')
  const [reason, setReason] = useState('')
  const unit = row.scale.label || row.unit
  const submit = (event: FormEvent) => {
    event.preventDefault()
    change.mutate({ value: Number(value), unit, reason }, { onSuccess: onDone })
  }
  return (
    <Stack component="form" onSubmit={submit} sx={{ gap: 1.25, my: 1.25 }}>
      <Stack direction="row" sx={{ gap: 1.25 }}>
        <TextField
          label={`Right value, ${unit}`}
          type="number"
          required
          autoFocus
          value={value}
          onChange={(event) => setValue(event.target.value)}
          slotProps={{ htmlInput: { min: 0, step: 'any' } }}
          sx={{ width: 170, flexShrink: 0 }}
        />
        <TextField
          label="Because"
          required
          fullWidth
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 200 } }}
        />
      </Stack>
      <Stack direction="row" sx={{ gap: 1.25 }}>
        <Button
          type="submit"
          variant="outlined"
          color="inherit"
          disabled={value === '' || !reason.trim() || change.isPending}
        >
          Correct
        </Button>
        <Button color="inherit" onClick={onDone}>
          Cancel
        </Button>
      </Stack>
      <SoftSmall>The value that stood there is kept, with who changed it and when.</SoftSmall>
      {change.error && <Alert severity="error">{change.error.message}</Alert>}
    </Stack>
  )
}

function History({ id }: { id: string }) {
  const acts = useQuery(readingHistoryQuery(id))
  if (!acts.data?.length) return null
  return (
    <details>
      <summary>What was done to it</summary>
      <ActLines acts={acts.data} />
    </details>
  )
}
