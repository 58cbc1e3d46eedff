import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { styled } from '@mui/material/styles'
import type { ReactNode } from 'react'

const Secret = styled('p')({
  font: '650 20px/1.4 ui-monospace,monospace',
  overflowWrap: 'anywhere',
  backgroundColor: 'var(--hm-paper)',
  border: '1px solid var(--hm-rule)',
  padding: '10px 14px',
  margin: '0 0 12px',
  userSelect: 'all',
})

type Props = { title: string; secret: string; onClose: () => void; children: ReactNode }

/** A key or a code, shown this once. */
export function SecretDialog({ title, secret, onClose, children }: Props) {
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="secret-title">
      <DialogTitle id="secret-title" variant="h2">
        {title}
      </DialogTitle>
      <DialogContent>
        <Secret className="secret">{secret}</Secret>
        {children}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={() => void navigator.clipboard?.writeText(secret)}>
          Copy
        </Button>
        <Button variant="contained" autoFocus onClick={onClose}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  )
}
