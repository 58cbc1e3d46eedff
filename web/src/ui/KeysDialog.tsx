import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'

import type { Shortcut } from './shortcuts'

export function KeysDialog({ shortcuts, onClose }: { shortcuts: Shortcut[]; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title" variant="h2">
        Keys on this page
      </DialogTitle>
      <DialogContent>
        <dl className="facts" tabIndex={0}>
          {shortcuts.map((shortcut) => (
            <div key={shortcut.key + shortcut.says} style={{ display: 'contents' }}>
              <dt>
                <kbd>{shortcut.shown ?? shortcut.key.toUpperCase()}</kbd>
              </dt>
              <dd>{shortcut.says}</dd>
            </div>
          ))}
        </dl>
      </DialogContent>
    </Dialog>
  )
}
