import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { useImportStudy } from '@/api/queries'

type Props = { onClose: () => void; onDone: (id: string) => void }

/** A readings file becomes a study; a file with faults is refused whole and told line by line. */
export function ImportDialog({ onClose, onDone }: Props) {
  const take = useImportStudy()
  const [title, setTitle] = useState('')
  const [file, setFile] = useState<File | null>(null)
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (file) take.mutate({ title, file }, { onSuccess: (study) => onDone(study.id) })
  }
  const choose = (chosen: File | undefined) => {
    setFile(chosen ?? null)
    if (chosen && !title) setTitle(chosen.name.replace(/\.csv$/i, ''))
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="import-title">
      <form onSubmit={submit}>
        <DialogTitle id="import-title" variant="h2">
          Take in readings
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <p className="soft" style={{ margin: 0 }}>
            A CSV file with at least the columns system, machine, metric, value and unit; one row a
            reading.
          </p>
          <input type="file" accept=".csv,text/csv" aria-label="Readings file" autoFocus onChange={(event) => choose(event.target.files?.[0])} />
          <TextField label="The question" required value={title} onChange={(event) => setTitle(event.target.value)} />
          {take.error && (
            <Alert severity="error" sx={{ whiteSpace: 'pre-line', maxHeight: 260, overflow: 'auto' }}>
              {take.error.message}
            </Alert>
          )}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Leave it
          </Button>
          <Button type="submit" variant="contained" disabled={!file || take.isPending}>
            {take.isPending ? 'Taking in …' : 'Take in'}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
