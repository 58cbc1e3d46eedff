import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { useState, type FormEvent } from 'react'

import { Soft } from '@/ui/kit'
import { TextLine } from '@/ui/TextLine'

type Props = {
  error: Error | null
  isPending: boolean
  onClose: () => void
  onSay: (name: string, use: string) => void
}

/** Asks for the name of a set of weights, and what it is for. */
export function KeepSetDialog({ error, isPending, onClose, onSay }: Props) {
  const [name, setName] = useState('')
  const [use, setUse] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    onSay(name.trim(), use.trim())
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="set-title">
      <form onSubmit={submit}>
        <DialogTitle id="set-title" variant="h2">
          Keep these weights
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            The reference is stored with its figures as they are now, so that what is measured later moves no
            index. A set of the same name is replaced.
          </Soft>
          <TextLine label="Name" value={name} onChange={setName} required />
          <TextLine label="What it is for" value={use} onChange={setUse} />
          {error && <Alert severity="error">{error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={isPending || !name.trim()}>
            Keep
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
