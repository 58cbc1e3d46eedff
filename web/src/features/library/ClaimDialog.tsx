import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import FormControlLabel from '@mui/material/FormControlLabel'
import Stack from '@mui/material/Stack'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { SoftSmall } from '@/ui/kit'
import { Select } from '@/ui/Select'

import { useAddClaim, wordsQuery } from '@/api/things'

import { SourceFields } from './SourceFields'

const USUAL: Record<string, string> = { s: 's', B: 'GiB', '1': '1' }

/** Notes what the makers of a system say of it, or a guess of one's own. */
export function ClaimDialog({ system, onClose }: { system: string; onClose: () => void }) {
  const words = useQuery(wordsQuery())
  const add = useAddClaim(system)
  const claims = words.data?.claims ?? []
  const [key, setKey] = useState('boots_in')
  const known = claims.find((one) => one.key === key)
  const units = known ? (words.data?.units[known.unit] ?? []) : []
  const [chosen, setChosen] = useState<string | null>(null)
  const unit = chosen && units.includes(chosen) ? chosen : (USUAL[known?.unit ?? ''] ?? '')
  const [value, setValue] = useState('')
  const [source, setSource] = useState('')
  const [on, setOn] = useState('')
  const [isOwn, setOwn] = useState(false)
  const submit = (event: FormEvent) => {
    event.preventDefault()
    add.mutate(
      { key, value: Number(value), unit, is_own_guess: isOwn, source: source.trim(), source_on: on || null },
      { onSuccess: onClose },
    )
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="claim-title">
      <form onSubmit={submit}>
        <DialogTitle id="claim-title" variant="h2">
          Note a claim
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Stack direction="row" sx={{ gap: 1.5, alignItems: 'center', flexWrap: 'wrap', mt: 1 }}>
            <Select
              value={key}
              onChange={(event) => setKey(event.target.value)}
              inputProps={{ 'aria-label': 'What is claimed' }}
            >
              {claims.map((one) => (
                <option key={one.key} value={one.key}>
                  {one.label}
                </option>
              ))}
            </Select>
            <TextField
              label="Amount"
              type="number"
              required
              autoFocus
              value={value}
              onChange={(event) => setValue(event.target.value)}
              slotProps={{ htmlInput: { min: 0, step: 'any' } }}
              sx={{ width: 130 }}
            />
            <Select
              value={unit}
              onChange={(event) => setChosen(event.target.value)}
              inputProps={{ 'aria-label': 'Unit' }}
            >
              {units.map((one) => (
                <option key={one} value={one}>
                  {one === '1' ? 'a count' : one}
                </option>
              ))}
            </Select>
          </Stack>
          <SourceFields
            helper="Where it is claimed"
            source={source}
            on={on}
            onSource={setSource}
            onDate={setOn}
          />
          <FormControlLabel
            control={<Checkbox checked={isOwn} onChange={(event) => setOwn(event.target.checked)} />}
            label="It is my own guess, noted before measuring"
          />
          <SoftSmall>It is held against the whole interval of the median, machine by machine.</SoftSmall>
          {add.error && <Alert severity="error">{add.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button
            type="submit"
            variant="contained"
            disabled={!unit || !(Number(value) > 0) || !source.trim() || add.isPending}
          >
            Note it
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
