import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'

import { Key } from './KeyHint'
import { FactList } from './kit'
import type { Shortcut } from './shortcuts'

export function KeysDialog({ shortcuts, onClose }: { shortcuts: Shortcut[]; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title" variant="h2">
        Keys on this page
      </DialogTitle>
      <DialogContent>
        <FactList tabIndex={0}>
          {shortcuts.map((shortcut) => (
            <div key={shortcut.key + shortcut.says}>
              <dt>
                <Key>{shortcut.shown ?? shortcut.key.toUpperCase()}</Key>
              </dt>
              <dd>{shortcut.says}</dd>
            </div>
          ))}
        </FactList>
      </DialogContent>
    </Dialog>
  )
}
