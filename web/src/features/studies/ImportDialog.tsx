import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { intakeName, useIntakeStage } from '@/api/intake'
import { useImportStudy } from '@/api/queries'
import { READINGS_TEMPLATE } from '@/format/template'
import { handOut } from '@/ui/keep'
import { LinkButton, Soft } from '@/ui/kit'
import { Progress } from '@/ui/Progress'

type Props = { onClose: () => void; onDone: (id: string, notes: readonly string[]) => void }

/** Files become a study; what is faulty is refused whole and told line by line. */
export function ImportDialog({ onClose, onDone }: Props) {
  const take = useImportStudy()
  const [title, setTitle] = useState('')
  const [files, setFiles] = useState<readonly File[]>([])
  const [name, setName] = useState<string | null>(null)
  const stage = useIntakeStage(name)
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (!files.length) return
    const progress = intakeName()
    setName(progress)
    take.mutate(
      { title, files, progress },
      { onSuccess: (made) => onDone(made.study.id, made.notes), onError: () => setName(null) },
    )
  }
  const choose = (chosen: readonly File[]) => {
    setFiles(chosen)
    if (chosen[0] && !title) setTitle(chosen[0].name.replace(/\.(csv|json|txt)$/i, ''))
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="import-title">
      <form onSubmit={submit}>
        <DialogTitle id="import-title" variant="h2">
          Import readings
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            One CSV file with at least the columns system, machine, metric, value and unit; or the captures
            that the probe wrote. Semicolons, tabs and decimal commas are understood, and other names that
            columns often have; what was made of them is said before you rely on it.{' '}
            <LinkButton
              type="button"
              onClick={() =>
                handOut('readings-template.csv', new Blob([READINGS_TEMPLATE], { type: 'text/csv' }))
              }
            >
              Download a template
            </LinkButton>
          </Soft>
          <input
            type="file"
            multiple
            accept=".csv,.json,.txt"
            aria-label="Readings file or captures"
            autoFocus
            onChange={(event) => choose([...(event.target.files ?? [])])}
          />
          <TextField
            label="The question"
            required
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
          {stage && take.isPending && <Progress {...stage} />}
          {take.error && (
            <Alert severity="error" sx={{ whiteSpace: 'pre-line', maxHeight: 260, overflow: 'auto' }}>
              {take.error.message}
            </Alert>
          )}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={!files.length || take.isPending}>
            {take.isPending ? 'Importing …' : 'Import'}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
