import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { useStateFact, type FactLine, type Noun } from '@/api/things'

import { SourceFields } from './SourceFields'

type Props = { noun: Noun; thing: string; line: FactLine; onClose: () => void }

/** States one fact, with where it comes from; or takes it out. */
export function FactDialog({ noun, thing, line, onClose }: Props) {
  const change = useStateFact(noun, thing)
  const [value, setValue] = useState(line.stated?.value ?? line.found ?? '')
  const [source, setSource] = useState(line.stated?.source.text ?? '')
  const [on, setOn] = useState(line.stated?.source.on ?? '')
  const say = (stated: string | null) =>
    change.mutate(
      { fact: line.key, body: { value: stated, source: source.trim() || 'not said', source_on: on || null } },
      { onSuccess: onClose },
    )
  const submit = (event: FormEvent) => {
    event.preventDefault()
    say(value.trim())
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="fact-title">
      <form onSubmit={submit}>
        <DialogTitle id="fact-title" variant="h2">
          {line.label}
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <TextField
            label={line.label}
            helperText={line.says}
            value={value}
            required
            autoFocus
            multiline={line.key === 'notes' || line.key === 'comes_with'}
            sx={{ mt: 1 }}
            onChange={(event) => setValue(event.target.value)}
            slotProps={{ htmlInput: { maxLength: 2000 } }}
          />
          <SourceFields
            helper="Where it is stated: a page, a file, the machine itself"
            source={source}
            on={on}
            onSource={setSource}
            onDate={setOn}
          />
          {change.error && <Alert severity="error">{change.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          {line.stated && (
            <Button color="inherit" disabled={change.isPending} onClick={() => say(null)}>
              Take it out
            </Button>
          )}
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button
            type="submit"
            variant="contained"
            disabled={!value.trim() || !source.trim() || change.isPending}
          >
            State it
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
