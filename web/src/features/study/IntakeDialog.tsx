import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState, type FormEvent } from 'react'

import { choicesQuery, useColumnMap, type ColumnMap } from '@/api/columns'
import { intakeName, useIntakeStage } from '@/api/intake'
import { usePreviewIntake, useTakeIn } from '@/api/queries'
import type { Study } from '@/api/types'
import { count } from '@/format/numbers'
import { stillMissing } from '@/ui/columnMap'
import { ColumnMapper } from '@/ui/ColumnMapper'
import { Soft, Working } from '@/ui/kit'
import { Progress } from '@/ui/Progress'

import { intakeLanes } from './intakeLanes'
import { IntakeList } from './IntakeList'

const Form = styled('form')({ display: 'contents' })

type Props = { study: Study; initial: readonly File[]; onClose: () => void }

/** Files from machines: first what was recognised in them, then taken in. */
export function IntakeDialog({ study, initial, onClose }: Props) {
  const preview = usePreviewIntake(study.id)
  const take = useTakeIn(study.id)
  const [files, setFiles] = useState(initial)
  const [chosen, setChosen] = useState<Record<number, number>>({})
  const [name] = useState(intakeName)
  const { mutate: look, reset } = preview
  const stage = useIntakeStage(preview.isPending || take.isPending ? name : null)
  const columns = useColumnMap()
  const choices = useQuery(choicesQuery())
  const { file, meaning } = columns
  const unsaid =
    file && meaning && choices.data ? stillMissing(meaning, file.header, choices.data.required) : []
  const recognise = (found: readonly File[]) =>
    columns.look(found, (table) => {
      if (!table?.missing.length) look({ files: found, progress: name, meaning: table?.meaning ?? null })
    })
  useEffect(() => {
    if (initial.length) recognise(initial)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, for the files that it was opened with
  }, [initial])
  const choose = (found: readonly File[]) => {
    setFiles(found)
    setChosen({})
    reset()
    if (found.length) recognise(found)
  }
  const explain = (next: ColumnMap) => {
    columns.setMeaning(next)
    reset()
  }

  const items = preview.data ?? []
  const { lanes, missing } = intakeLanes(items, chosen)
  const fresh = items.filter((item) => !item.is_known).length
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (!items.length) return look({ files, progress: name, meaning })
    take.mutate({ files, lanes, progress: name, meaning }, { onSuccess: onClose })
  }
  const error = columns.error ?? preview.error ?? take.error
  const isBusy = take.isPending || preview.isPending || columns.isLooking
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="intake-title">
      <Form onSubmit={submit}>
        <DialogTitle id="intake-title" variant="h2">
          Import files
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            Captures of the probe, texts of the gatherer, or a readings file of these contenders. The probe
            for a machine’s own Python: <a href="/haremile-probe.pyz">haremile-probe.pyz</a>; for a machine
            without: <a href="/haremile-gather.sh">haremile-gather.sh</a>.
          </Soft>
          <input
            type="file"
            multiple
            accept=".json,.txt,.csv"
            aria-label="Files from machines"
            autoFocus={!initial.length}
            onChange={(event) => choose([...(event.target.files ?? [])])}
          />
          {file && meaning && choices.data && (
            <ColumnMapper file={file} choices={choices.data} meaning={meaning} onChange={explain} />
          )}
          {preview.isPending && <Working role="status" aria-label="Looking into the files" />}
          {stage && <Progress {...stage} />}
          {error && (
            <Alert severity="error" sx={{ whiteSpace: 'pre-line', maxHeight: 260, overflow: 'auto' }}>
              {error.message}
            </Alert>
          )}
          {items.length > 0 && (
            <IntakeList
              items={items}
              contenders={study.contenders}
              chosen={chosen}
              onChoose={(place, lane) => setChosen({ ...chosen, [place]: lane })}
            />
          )}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button
            type="submit"
            variant="contained"
            autoFocus={initial.length > 0}
            disabled={isBusy || (items.length ? !fresh || missing > 0 : !file || unsaid.length > 0)}
          >
            {take.isPending
              ? 'Taking in …'
              : file && !items.length
                ? unsaid.length
                  ? `Still to be said: ${unsaid.join(', ')}`
                  : 'Look what it holds'
                : actionOf(items.length, fresh, missing)}
          </Button>
        </DialogActions>
      </Form>
    </Dialog>
  )
}

function actionOf(items: number, fresh: number, missing: number): string {
  if (!items) return 'Choose files'
  if (missing)
    return `Say whose ${missing === 1 ? 'the one' : `the ${missing}`} without a contender ${missing === 1 ? 'is' : 'are'}`
  return fresh ? `Import ${count(fresh, 'capture')}` : 'All of it is here already'
}
