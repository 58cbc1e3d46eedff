import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState, type FormEvent } from 'react'

import { choicesQuery, useColumnMap } from '@/api/columns'
import { intakeName, useIntakeStage } from '@/api/intake'
import { useImportStudy } from '@/api/queries'
import { READINGS_TEMPLATE } from '@/format/template'
import { stillMissing } from '@/ui/columnMap'
import { ColumnMapper } from '@/ui/ColumnMapper'
import { handOut } from '@/ui/keep'
import { LinkButton, Soft, Working } from '@/ui/kit'
import { Progress } from '@/ui/Progress'

type Props = {
  initial?: readonly File[]
  onClose: () => void
  onDone: (id: string, notes: readonly string[]) => void
}

const named = (file: File) => file.name.replace(/\.(csv|json|txt)$/i, '')

/** Files become a study; what is faulty is refused whole and told line by line. */
export function ImportDialog({ initial = [], onClose, onDone }: Props) {
  const take = useImportStudy()
  const [title, setTitle] = useState(initial[0] ? named(initial[0]) : '')
  const [files, setFiles] = useState<readonly File[]>(initial)
  const [name, setName] = useState<string | null>(null)
  const stage = useIntakeStage(name)
  const columns = useColumnMap()
  const choices = useQuery(choicesQuery())
  const missing =
    columns.file && columns.meaning && choices.data
      ? stillMissing(columns.meaning, columns.file.header, choices.data.required)
      : []
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (!files.length) return
    const progress = intakeName()
    setName(progress)
    take.mutate(
      { title, files, progress, meaning: columns.meaning },
      { onSuccess: (made) => onDone(made.study.id, made.notes), onError: () => setName(null) },
    )
  }
  const choose = (chosen: readonly File[]) => {
    setFiles(chosen)
    if (chosen.length) columns.look(chosen, () => undefined)
    if (chosen[0] && !title) setTitle(named(chosen[0]))
  }
  useEffect(() => {
    if (initial.length) columns.look(initial, () => undefined)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what was dropped is chosen once
  }, [])
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth={columns.file ? 'md' : 'sm'}
      aria-labelledby="import-title"
    >
      <form onSubmit={submit}>
        <DialogTitle id="import-title" variant="h2">
          Import readings
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            One CSV file with at least the columns system, machine, metric, value and unit, or a table of your
            own whose columns you then explain; or the captures that the probe wrote. Semicolons, tabs and
            decimal commas are understood; what was made of them is said before you rely on it.{' '}
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
          {columns.file && columns.meaning && choices.data && (
            <ColumnMapper
              file={columns.file}
              choices={choices.data}
              meaning={columns.meaning}
              onChange={columns.setMeaning}
            />
          )}
          {columns.isLooking && <Working role="status" aria-label="Looking into the files" />}
          {columns.error && <Alert severity="error">{columns.error.message}</Alert>}
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
          <Button
            type="submit"
            variant="contained"
            disabled={!files.length || take.isPending || columns.isLooking || missing.length > 0}
          >
            {take.isPending
              ? 'Importing …'
              : missing.length
                ? `Still to be said: ${missing.join(', ')}`
                : 'Import'}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
