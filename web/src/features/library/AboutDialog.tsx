import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { useFill, type Noun } from '@/api/things'
import { Soft } from '@/ui/kit'

type Props = { noun: Noun; thing: string; onClose: () => void; onDone: (says: string) => void }

/** States what a capture of the probe tells, pasted or from its file. */
export function AboutDialog({ noun, thing, onClose, onDone }: Props) {
  const [text, setText] = useState('')
  const fill = useFill(noun, thing)
  const submit = (event: FormEvent) => {
    event.preventDefault()
    fill.mutate(text, {
      onSuccess: ({ stated }) =>
        onDone(stated.length ? `Stated: ${stated.join(', ')}.` : 'All of it was stated already.'),
    })
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="about-title">
      <form onSubmit={submit}>
        <DialogTitle id="about-title" variant="h2">
          Fill from a capture
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            What <code>python3 haremile-probe.pyz about --json</code> printed there, or the file that it
            wrote. What was stated before stays in the history.
          </Soft>
          <TextField
            label="The capture"
            multiline
            minRows={4}
            maxRows={10}
            autoFocus
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Button component="label" variant="outlined" color="inherit" sx={{ justifySelf: 'start' }}>
            Choose its file
            <input
              type="file"
              hidden
              aria-label="Capture file"
              onChange={(event) => {
                const file = event.target.files?.[0]
                if (file) void file.text().then(setText)
              }}
            />
          </Button>
          {fill.error && <Alert severity="error">{fill.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={!text.trim() || fill.isPending}>
            State what it tells
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
