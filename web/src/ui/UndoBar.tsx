import Button from '@mui/material/Button'
import Snackbar from '@mui/material/Snackbar'

const SHOWN_MS = 30_000

type Props = { says: string; onUndo: () => void; onDone: () => void }

/** What was just done, and the way back. */
export const UndoBar = ({ says, onUndo, onDone }: Props) => (
  <Snackbar
    open
    autoHideDuration={SHOWN_MS}
    onClose={(_, why) => why === 'timeout' && onDone()}
    message={says}
    action={
      <Button color="inherit" size="small" onClick={onUndo}>
        Undo
      </Button>
    }
  />
)
