import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'

import { Soft } from '@/ui/kit'

type Props = { notes: readonly string[]; onClose: () => void }

/** What a person should look at in a file that was taken in. */
export const NotesDialog = ({ notes, onClose }: Props) => (
  <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="notes-title">
    <DialogTitle id="notes-title" variant="h2">
      Imported; please look at this
    </DialogTitle>
    <DialogContent>
      {notes.map((note) => (
        <p key={note}>{note}</p>
      ))}
      <Soft as="p">A reading that should not count can be set aside under Findings (R lists them).</Soft>
    </DialogContent>
    <DialogActions>
      <Button variant="contained" autoFocus onClick={onClose}>
        Show the findings
      </Button>
    </DialogActions>
  </Dialog>
)
