import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import type { FormEvent, ReactNode } from 'react'

type FormProps = {
  title: string
  error: Error | null
  isReady: boolean
  says?: string
  isWide?: boolean
  onClose: () => void
  onSubmit: () => void
  children: ReactNode
}

/** A form in a dialog, handed in by Enter. */
export const NoteForm = ({
  title,
  error,
  isReady,
  says = 'Note it',
  isWide,
  onClose,
  onSubmit,
  children,
}: FormProps) => (
  <Dialog open onClose={onClose} fullWidth maxWidth={isWide ? 'md' : 'xs'} aria-labelledby="note-title">
    <form
      onSubmit={(event: FormEvent) => {
        event.preventDefault()
        onSubmit()
      }}
    >
      <DialogTitle id="note-title" variant="h2">
        {title}
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, '&&': { pt: 1 } }}>
        {children}
        {error && <Alert severity="error">{error.message}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Cancel
        </Button>
        <Button type="submit" variant="contained" disabled={!isReady}>
          {says}
        </Button>
      </DialogActions>
    </form>
  </Dialog>
)

type PickProps = {
  label: string
  value: string
  all: readonly { id: string; name: string }[]
  onPick: (id: string) => void
  required?: boolean
  /** What stands for none of them; nothing where one is always chosen. */
  none?: string | null
}

/** One of several, by name. */
export const Pick = ({
  label,
  value,
  all,
  onPick,
  required,
  none = required ? 'choose' : 'not stated',
}: PickProps) => (
  <TextField
    select
    size="small"
    label={label}
    value={value}
    required={required}
    onChange={(event) => onPick(event.target.value)}
    slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
  >
    {none !== null && <option value="">{none}</option>}
    {all.map((one) => (
      <option key={one.id} value={one.id}>
        {one.name}
      </option>
    ))}
  </TextField>
)
