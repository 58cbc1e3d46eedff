import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { embeddedFonts } from '@/api/fonts'
import { incidentsQuery, useChangeNoted, type IncidentsPage as Page } from '@/api/incidents'
import { incidentsTable } from '@/charts/layout/incidents'
import { IncidentsPicture } from '@/charts/IncidentsPicture'
import { moment } from '@/format/numbers'
import { csvOf } from '@/format/table'
import { KeepButtons } from '@/ui/KeepButtons'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, Answer, Foot, Headline, LinkButton, Main, Sheet, Soft, TitleBar, WordList } from '@/ui/kit'
import { MethodLink } from '@/ui/MethodLink'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { UndoBar } from '@/ui/UndoBar'
import { useWidth } from '@/ui/useWidth'

import { HoursDialog, IncidentDialog } from './NoteDialog'
import { Views } from './Views'

type Done = { id: string; says: string; undo: boolean }

/** What went wrong while systems were in use, per 100 hours. */
export function IncidentsPage() {
  const found = useQuery(incidentsQuery())
  const change = useChangeNoted()
  const [dialog, setDialog] = useState<'incident' | 'hours' | null>(null)
  const [done, setDone] = useState<Done | null>(null)
  useShortcuts([
    { key: 'n', says: 'Note an incident', run: () => setDialog('incident') },
    { key: 'u', says: 'Note hours in use', run: () => setDialog('hours') },
  ])
  const noted = (id: string, says: string) => {
    setDialog(null)
    setDone({ id, says, undo: true })
  }
  const takeOut = (id: string) =>
    change.mutate(
      { id, isAway: true },
      { onSuccess: () => setDone({ id, says: 'Taken out of the count', undo: false }) },
    )
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Incidents</h1>
          <Soft as="div">crashes, hangs and updates that broke something, per 100 hours in use</Soft>
          <Views />
        </div>
        <Actions>
          <Button variant="outlined" color="inherit" onClick={() => setDialog('hours')}>
            Note hours in use
            <KeyHint name="U" />
          </Button>
          <Button variant="contained" onClick={() => setDialog('incident')}>
            Note an incident
            <KeyHint name="N" />
          </Button>
        </Actions>
      </TitleBar>
      {found.isPending && <Loading what="the incidents" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {change.error && <Failed error={change.error} />}
      {found.data && <Shown page={found.data} onTakeOut={takeOut} />}
      {found.data && dialog === 'incident' && (
        <IncidentDialog page={found.data} onClose={() => setDialog(null)} onNoted={noted} />
      )}
      {found.data && dialog === 'hours' && (
        <HoursDialog page={found.data} onClose={() => setDialog(null)} onNoted={noted} />
      )}
      {done && (
        <UndoBar
          key={done.id + done.says}
          says={done.says}
          onDone={() => setDone(null)}
          onUndo={() => {
            change.mutate({ id: done.id, isAway: done.undo })
            setDone(null)
          }}
        />
      )}
    </Main>
  )
}

function Shown({ page, onTakeOut }: { page: Page; onTakeOut: (id: string) => void }) {
  const [ref, width] = useWidth<HTMLDivElement>(1180)
  const hasRates = page.lines.some((line) => line.rate !== null)
  return (
    <Sheet as="section" ref={ref} aria-label="Incidents per 100 hours" sx={{ mt: 1.25 }}>
      <Headline className="headline" sx={{ pt: 1.25 }}>
        {page.headline}
      </Headline>
      <Answer data-testid="answer">
        {page.sentence} <MethodLink to="over-studies" />
      </Answer>
      {hasRates && <IncidentsPicture page={page} width={width} />}
      {page.lines.map((line) => (
        <WordList key={line.system_id} aria-label={line.system}>
          <li>
            <b>{line.system}</b>
          </li>
          {line.incidents.map((one) => (
            <li key={one.id}>
              {one.kind}
              {one.what && `: ${one.what}`}{' '}
              <Soft>{[moment(one.at), one.machine].filter(Boolean).join(', ')}</Soft>{' '}
              <LinkButton onClick={() => onTakeOut(one.id)}>Take out</LinkButton>
            </li>
          ))}
          {line.hours.map((one) => (
            <li key={one.id}>
              {one.hours} hours in use{' '}
              <Soft>{[`noted ${moment(one.at)}`, one.machine].filter(Boolean).join(', ')}</Soft>{' '}
              <LinkButton onClick={() => onTakeOut(one.id)}>Take out</LinkButton>
            </li>
          ))}
        </WordList>
      ))}
      {page.lines.length > 0 && (
        <Foot className="noprint">
          <KeepButtons
            box={ref}
            fonts={embeddedFonts}
            hasPicture={hasRates}
            name={['incidents']}
            data={() => csvOf(incidentsTable(page))}
            head={[page.headline, page.sentence, 'incidents per 100 hours in use, exact intervals at 95 %']}
          />
        </Foot>
      )}
    </Sheet>
  )
}
