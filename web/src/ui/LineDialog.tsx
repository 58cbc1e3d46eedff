import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent, type ReactNode } from 'react'

import { Soft } from './kit'

type Props = {
  title: string
  label: string
  action: string
  children?: ReactNode
  initial?: string
  /** What alone is taken, where anything else is a slip of the hand. */
  only?: string
  mayBeEmpty?: boolean
  error: Error | null
  isPending: boolean
  onClose: () => void
  onSay: (text: string) => void
}

/** Asks for one line of text. */
export function LineDialog({
  title,
  label,
  action,
  children,
  initial = '',
  only,
  mayBeEmpty = false,
  error,
  isPending,
  onClose,
  onSay,
}: Props) {
  const [text, setText] = useState(initial)
  const isSayable = only === undefined ? mayBeEmpty || text.trim() !== '' : text.trim() === only
  const submit = (event: FormEvent) => {
    event.preventDefault()
    onSay(text.trim())
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="line-title">
      <form onSubmit={submit}>
        <DialogTitle id="line-title" variant="h2">
          {title}
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          {children && (
            <Soft as="p" sx={{ m: 0 }}>
              {children}
            </Soft>
          )}
          <TextField
            label={label}
            value={text}
            required={!mayBeEmpty}
            autoFocus
            sx={{ mt: 1 }}
            onChange={(event) => setText(event.target.value)}
            slotProps={{ htmlInput: { maxLength: 200 } }}
          />
          {error && <Alert severity="error">{error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={!isSayable || isPending}>
            {action}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
