import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { Actions } from '@/ui/kit'

type Props = {
  title: string
  action: string
  offered: readonly string[]
  onClose: () => void
  onSay: (reason: string) => void
}

/** Asks for a reason: one of those that are offered, or in words. */
export function WhyDialog({ title, action, offered, onClose, onSay }: Props) {
  const [text, setText] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    onSay(text.trim())
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="why-title">
      <form onSubmit={submit}>
        <DialogTitle id="why-title" variant="h2">
          {title}
        </DialogTitle>
        <DialogContent>
          <Actions>
            {offered.map((one) => (
              <Button
                key={one}
                variant={text === one ? 'contained' : 'outlined'}
                color="inherit"
                sx={{ minHeight: 44 }}
                onClick={() => setText(one)}
              >
                {one}
              </Button>
            ))}
          </Actions>
          <TextField
            label="Why"
            value={text}
            required
            autoFocus
            fullWidth
            sx={{ mt: 2 }}
            onChange={(event) => setText(event.target.value)}
            slotProps={{ htmlInput: { maxLength: 160 } }}
          />
        </DialogContent>
        <DialogActions>
          <Button color="inherit" sx={{ minHeight: 44 }} onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" sx={{ minHeight: 44 }} disabled={!text.trim()}>
            {action}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
