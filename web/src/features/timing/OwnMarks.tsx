import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Stack from '@mui/material/Stack'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import type { MarkKind } from '@/api/byHand'
import { Soft } from '@/ui/kit'
import { Select } from '@/ui/Select'

import { ownKind } from './race'
import type { MarkListOf } from './useMarkLists'

const MOST = 8
const WHATS = [
  ['own.seen', 'I see it'],
  ['own.act', 'I do it'],
  ['own.wait', 'I answer: the wait before it does not count'],
] as const
type Row = { name: string; what: string }

type Props = {
  kinds: ReadonlyMap<string, MarkKind>
  taken: readonly string[]
  onClose: () => void
  onSave: (list: MarkListOf) => void
}

/** A list of marks of the tester's own. */
export function OwnMarks({ kinds, taken, onClose, onSave }: Props) {
  const [name, setName] = useState('')
  const [rows, setRows] = useState<readonly Row[]>([
    { name: 'power on', what: 'own.act' },
    { name: '', what: 'own.seen' },
  ])
  const known = new Map(
    [...kinds.values()].filter((one) => !one.key.startsWith('own.')).map((one) => [one.label, one]),
  )
  const set = (place: number, part: Partial<Row>) =>
    setRows(rows.map((row, i) => (i === place ? { ...row, ...part } : row)))
  const whole = rows.filter((row) => row.name.trim() !== '')
  const isTaken = taken.includes(name.trim())
  const isTwice = new Set(whole.map((row) => row.name.trim().toLowerCase())).size < whole.length
  const submit = (event: FormEvent) => {
    event.preventDefault()
    onSave({
      name: name.trim(),
      isOwn: true,
      kinds: whole.map((row) => known.get(row.name.trim())?.key ?? ownKind(row.what, row.name.trim())),
    })
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="own-marks-title">
      <form onSubmit={submit}>
        <DialogTitle id="own-marks-title" variant="h2">
          Marks of your own
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
          <Soft as="p" sx={{ m: 0 }}>
            In their order; the first begins. The time from there to each mark that you name becomes a measure
            of that name. The list stays in this browser.
          </Soft>
          <TextField
            label="Name of the list"
            value={name}
            required
            autoFocus
            sx={{ mt: 1 }}
            error={isTaken}
            helperText={isTaken ? 'There is a list of this name' : ' '}
            onChange={(event) => setName(event.target.value)}
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <datalist id="known-marks">
            {[...known.keys()].map((one) => (
              <option key={one} value={one} />
            ))}
          </datalist>
          {rows.map((row, place) => {
            const found = known.get(row.name.trim())
            return (
              <Stack key={place} direction="row" sx={{ gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
                <TextField
                  size="small"
                  sx={{ flex: '1 1 180px' }}
                  label={`Mark ${place + 1}`}
                  value={row.name}
                  onChange={(event) => set(place, { name: event.target.value })}
                  slotProps={{ htmlInput: { maxLength: 40, list: 'known-marks' } }}
                />
                {found ? (
                  <Soft sx={{ flex: '1 1 220px' }}>{found.says}</Soft>
                ) : (
                  <Select
                    aria-label={`What mark ${place + 1} is`}
                    value={row.what}
                    onChange={(event) => set(place, { what: event.target.value })}
                  >
                    {WHATS.map(([key, says]) => (
                      <option key={key} value={key}>
                        {says}
                      </option>
                    ))}
                  </Select>
                )}
              </Stack>
            )
          })}
          <Stack direction="row">
            <Button
              color="inherit"
              sx={{ minHeight: 44 }}
              disabled={rows.length >= MOST}
              onClick={() => setRows([...rows, { name: '', what: 'own.seen' }])}
            >
              One more mark
            </Button>
          </Stack>
          {isTwice && <Soft role="alert">Two marks have the same name.</Soft>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" sx={{ minHeight: 44 }} onClick={onClose}>
            Cancel
          </Button>
          <Button
            type="submit"
            variant="contained"
            sx={{ minHeight: 44 }}
            disabled={!name.trim() || isTaken || isTwice || whole.length < 2}
          >
            Use it
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
