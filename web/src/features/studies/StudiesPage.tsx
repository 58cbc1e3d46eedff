import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'

import { useCreateDraft } from '@/api/plan'
import { studiesQuery, useStartFirstMile } from '@/api/queries'
import { useStudyListEvents } from '@/api/todayEvents'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, LinkButton, Main, Soft, TitleBar } from '@/ui/kit'
import { later } from '@/ui/later'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { DropHint, useFileDrop } from '@/ui/useFileDrop'
import { isReadingsFile, isTable, usePastedText } from '@/ui/usePastedText'

import { ALL, chosen } from './chosen'
import { FirstStudy } from './FirstStudy'
import { NotesDialog } from './NotesDialog'
import { PutAway } from './PutAway'
import { StudyChoice } from './StudyChoice'
import { StudyList } from './StudyList'

const ImportDialog = later(() => import('./ImportDialog').then((module) => module.ImportDialog), 'dialog')

/** All studies, and the ways to begin one. */
export function StudiesPage() {
  const studies = useQuery(studiesQuery())
  useStudyListEvents()
  const firstMile = useStartFirstMile()
  const navigate = useNavigate()
  const [dialog, setDialog] = useState<'import' | null>(null)
  const [dropped, setDropped] = useState<readonly File[]>([])
  const open = (files: readonly File[]) => {
    setDropped(files)
    setDialog('import')
  }
  const isOver = useFileDrop(open)
  usePastedText((text) => {
    if (isReadingsFile(text)) open([new File([text], 'pasted.csv', { type: 'text/csv' })])
    else if (isTable(text)) void navigate('/typing', { state: { pasted: text } })
    else void navigate('/pasted', { state: { text } })
  })
  const startGuests = () =>
    firstMile.mutate(8, { onSuccess: (study) => void navigate(`/studies/${study.id}/run`) })
  const draft = useCreateDraft()
  const plan = () => draft.mutate('', { onSuccess: (study) => void navigate(`/studies/${study.id}/plan`) })
  useShortcuts([
    { key: 'n', says: 'Plan a study', run: plan },
    { key: 't', says: 'Import a readings file', run: () => open([]) },
    { key: 'k', says: 'Type or paste figures', run: () => void navigate('/typing') },
    { key: 'x', says: 'Packages: hand studies on, take them in', run: () => void navigate('/packages') },
    { key: '/', says: 'Find a study', run: () => search.current?.focus() },
    { key: 'g', says: 'Boot the two real guests, 8 times each', run: startGuests },
  ])
  const [choice, setChoice] = useState(ALL)
  const search = useRef<HTMLInputElement>(null)
  const shown = chosen(studies.data ?? [], choice)
  const [fresh, setFresh] = useState('')
  const [notes, setNotes] = useState<readonly string[]>([])
  const made = (id: string, said: readonly string[]) => {
    if (!said.length) return void navigate(`/studies/${id}/findings`)
    setDialog(null)
    setFresh(id)
    setNotes(said)
  }
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Studies</h1>
          <Soft as="div">one question each, its contenders and what was found</Soft>
        </div>
        <Actions>
          <Button variant="outlined" color="inherit" onClick={() => open([])}>
            Import readings
            <KeyHint name="T" />
          </Button>
          <Button variant="outlined" color="inherit" onClick={() => void navigate('/typing')}>
            Type figures
            <KeyHint name="K" />
          </Button>
          <Button variant="outlined" color="inherit" onClick={plan}>
            Plan a study
            <KeyHint name="N" />
          </Button>
          <Button variant="contained" onClick={startGuests} disabled={firstMile.isPending}>
            Boot two real guests, 8 times each
            <KeyHint name="G" />
          </Button>
        </Actions>
      </TitleBar>
      {(firstMile.error ?? draft.error) && <Failed error={(firstMile.error ?? draft.error)!} />}
      {studies.isPending && <Loading what="the studies" />}
      {studies.error && <Failed error={studies.error} onRetry={() => void studies.refetch()} />}
      {studies.data && studies.data.length > 0 && (
        <>
          <StudyChoice choice={choice} search={search} onChange={setChoice} />
          <StudyList studies={shown} />
          {shown.length === 0 && (
            <Soft as="p">
              None of {studies.data.length} studies is so.{' '}
              <LinkButton onClick={() => setChoice(ALL)}>Show all</LinkButton>
            </Soft>
          )}
        </>
      )}
      {studies.data?.length === 0 && (
        <FirstStudy
          onGuests={startGuests}
          onImport={() => open([])}
          onPlan={plan}
          isStarting={firstMile.isPending}
        />
      )}
      <PutAway />
      <Soft as="p" className="noprint">
        <Link to="/packages">Packages</Link> <KeyHint name="X" />: hand studies on to another bench book, or
        take them in
      </Soft>
      {isOver && <DropHint />}
      {dialog === 'import' && (
        <ImportDialog
          key={dropped.map((file) => file.name).join()}
          initial={dropped}
          onClose={() => setDialog(null)}
          onDone={made}
        />
      )}
      {notes.length > 0 && (
        <NotesDialog notes={notes} onClose={() => void navigate(`/studies/${fresh}/findings`)} />
      )}
    </Main>
  )
}
