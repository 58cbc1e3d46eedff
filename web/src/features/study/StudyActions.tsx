import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Snackbar from '@mui/material/Snackbar'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { readingsFile, usePauseStudy, useRunStudy, useStopStudy } from '@/api/queries'
import type { RunSheet, Study } from '@/api/types'
import { fileName, handOut } from '@/ui/keep'
import { KeyHint } from '@/ui/KeyHint'
import { Actions } from '@/ui/kit'
import { later } from '@/ui/later'
import { useShortcuts } from '@/ui/shortcuts'

import { StudyMore } from './StudyMore'

const ExtendDialog = later(() => import('./ExtendDialog').then((module) => module.ExtendDialog), 'dialog')

/** Run, pause, and take the readings along. */
export function StudyActions({
  study,
  sheet,
  onTakeIn,
}: {
  study: Study
  sheet: RunSheet
  onTakeIn: () => void
}) {
  const run = useRunStudy(study.id)
  const pause = usePauseStudy(study.id)
  const stop = useStopStudy(study.id)
  const isLeft = sheet.runs.some((item) => item.state === 'planned')
  const canStart = study.can_run && isLeft && !study.is_running
  const canExtend =
    study.can_run &&
    sheet.runs.length > 0 &&
    sheet.runs.every((item) => !['planned', 'leased', 'running'].includes(item.state))
  const [isExtending, setExtending] = useState(false)
  const word = sheet.runs.some((item) => item.state !== 'planned') ? 'Go on' : 'Run the study'
  const file = useMutation({
    mutationFn: () => readingsFile(study.id),
    onSuccess: (body) => handOut(`${fileName('haremile', study.title)}.csv`, body),
  })
  const save = () => file.mutate()
  useShortcuts([
    ...(canStart ? [{ key: 'p', says: word, run: () => run.mutate() }] : []),
    ...(study.is_running ? [{ key: 'p', says: 'Pause after this run', run: () => pause.mutate() }] : []),
    ...(study.is_running
      ? [{ key: 'x', says: 'Stop now; the run is planned again', run: () => stop.mutate() }]
      : []),
    ...(canExtend ? [{ key: 'e', says: 'Add repeats to the plan', run: () => setExtending(true) }] : []),
    { key: 'c', says: 'Export all readings (CSV)', run: save },
    { key: 't', says: 'Import files', run: onTakeIn },
  ])
  const error = run.error ?? pause.error ?? stop.error ?? file.error
  return (
    <Actions>
      <Button variant="outlined" color="inherit" onClick={save} disabled={file.isPending}>
        Export readings
        <KeyHint name="C" />
      </Button>
      <Button variant="outlined" color="inherit" onClick={onTakeIn}>
        Import files
        <KeyHint name="T" />
      </Button>
      <StudyMore study={study} />
      {canExtend && (
        <Button variant="outlined" color="inherit" onClick={() => setExtending(true)}>
          Add repeats
          <KeyHint name="E" />
        </Button>
      )}
      {isExtending && <ExtendDialog study={study} onClose={() => setExtending(false)} />}
      {study.is_running && (
        <Button variant="outlined" color="inherit" onClick={() => stop.mutate()} disabled={stop.isPending}>
          Stop now
          <KeyHint name="X" />
        </Button>
      )}
      {study.is_running && (
        <Button
          variant="contained"
          onClick={() => pause.mutate()}
          disabled={pause.isPending || study.is_pausing}
        >
          {study.is_pausing ? 'Pausing after this run' : 'Pause after this run'}
          <KeyHint name="P" />
        </Button>
      )}
      {canStart && (
        <Button variant="contained" onClick={() => run.mutate()} disabled={run.isPending}>
          {word}
          <KeyHint name="P" />
        </Button>
      )}
      {error && (
        <Snackbar open anchorOrigin={{ vertical: 'bottom', horizontal: 'center' }}>
          <Alert severity="error">{error.message}</Alert>
        </Snackbar>
      )}
    </Actions>
  )
}
