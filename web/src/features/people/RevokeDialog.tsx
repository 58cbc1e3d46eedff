import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'

import { useRevokePerson } from '@/api/people'

type Props = { name: string; isMe: boolean; onClose: () => void }

/** Asked before it is done: a revoked key cannot be brought back. */
export function RevokeDialog({ name, isMe, onClose }: Props) {
  const revoke = useRevokePerson()
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="revoke-title">
      <DialogTitle id="revoke-title" variant="h2">
        Revoke every key of {name}?
      </DialogTitle>
      <DialogContent>
        <p>
          Keys, codes and signed-in browsers of {name} are worthless at once, and open pages end. This cannot
          be undone; a new key can be made.
        </p>
        {isMe && (
          <p>
            <b>This is you:</b> this browser is signed out too. ./haremile key link signs you in again.
          </p>
        )}
        {revoke.error && <Alert severity="error">{revoke.error.message}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" autoFocus onClick={onClose}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={revoke.isPending}
          onClick={() => revoke.mutate(name, { onSuccess: onClose })}
        >
          Revoke
        </Button>
      </DialogActions>
    </Dialog>
  )
}
