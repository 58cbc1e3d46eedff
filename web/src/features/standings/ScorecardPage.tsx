import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import { scorecardQuery, scorecardsQuery, useChangeWorks, type ScorecardPage as Page } from '@/api/scorecards'
import { moment } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import {
  Actions,
  Answer,
  Banner,
  Headline,
  LinkButton,
  Main,
  Sheet,
  Soft,
  TitleBar,
  WordList,
} from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { UndoBar } from '@/ui/UndoBar'
import { useView } from '@/ui/useView'

import { CardDialog } from './CardDialog'
import { ScoreTable } from './ScoreTable'
import { Views } from './Views'
import { WorksDialog } from './WorksDialog'
import { WorksList } from './WorksList'

type Done = { id: string; says: string; undo: boolean }

/** What a tester says of one system. */
export function ScorecardPage() {
  const { systemId = '' } = useParams()
  const view = useView()
  const version = Number(view.get('version')) || null
  const found = useQuery(scorecardQuery(systemId, version))
  const list = useQuery(scorecardsQuery())
  const change = useChangeWorks()
  const [dialog, setDialog] = useState<'card' | 'works' | null>(null)
  const [done, setDone] = useState<Done | null>(null)
  const page = found.data
  useShortcuts([
    { key: 'e', says: 'Write the scorecard', run: () => setDialog('card') },
    { key: 'n', says: 'Note what works', run: () => setDialog('works') },
  ])
  const newest = page?.versions[0]?.version ?? 0
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>{page?.system ?? 'Scorecard'}</h1>
          <Soft as="div">
            what a tester says of it{page?.at && `: version ${page.version}, ${moment(page.at)}`}
          </Soft>
          <Views />
        </div>
        <Actions>
          <Button variant="outlined" color="inherit" onClick={() => setDialog('works')}>
            Note what works
            <KeyHint name="N" />
          </Button>
          <Button variant="contained" onClick={() => setDialog('card')}>
            {newest ? 'Change the scorecard' : 'Write the scorecard'}
            <KeyHint name="E" />
          </Button>
        </Actions>
      </TitleBar>
      {found.isPending && <Loading what="the scorecard" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {change.error && <Failed error={change.error} />}
      {page && version !== null && version !== newest && (
        <Banner role="status">
          This is version {version}; {newest} is the newest.{' '}
          <LinkButton onClick={() => view.go({ version: '' })}>Show the newest</LinkButton>
        </Banner>
      )}
      {page && <Shown page={page} />}
      {page && (
        <WorksList
          page={page}
          onTakeOut={(id) =>
            change.mutate(
              { id, isAway: true },
              { onSuccess: () => setDone({ id, says: 'Taken out of the list', undo: false }) },
            )
          }
        />
      )}
      {page && page.versions.length > 1 && <History page={page} />}
      {page && dialog === 'card' && (
        <CardDialog
          page={page}
          newest={newest}
          onClose={() => setDialog(null)}
          onKept={() => {
            setDialog(null)
            view.go({ version: '' })
          }}
        />
      )}
      {page && list.data && dialog === 'works' && (
        <WorksDialog
          page={page}
          machines={list.data.machines}
          onClose={() => setDialog(null)}
          onNoted={(id, says) => {
            setDialog(null)
            setDone({ id, says, undo: true })
          }}
        />
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

const Halves = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'repeat(auto-fit, minmax(min(100%, 460px), 1fr))',
  gap: '0 24px',
  padding: '0 16px 12px',
  '& h2': { fontSize: 15, margin: '10px 0 2px' },
  '& p, & ul': { margin: 0 },
  '& ul': { paddingLeft: 18 },
})

function Shown({ page }: { page: Page }) {
  const card = page.card
  return (
    <Sheet as="section" aria-label="Scorecard" sx={{ mt: 1.25 }}>
      <Headline className="headline" sx={{ pt: 1.25 }}>
        {page.headline}
      </Headline>
      <Answer data-testid="answer">{page.sentence}</Answer>
      {card && <ScoreTable card={card} />}
      {card && (
        <Halves>
          <Points page={page} isGood title="Good" />
          <Points page={page} isGood={false} title="Not so good" />
          {card.for_whom && (
            <div>
              <h2>For whom</h2>
              <p>{card.for_whom}</p>
            </div>
          )}
          {card.not_for_whom && (
            <div>
              <h2>For whom not</h2>
              <p>{card.not_for_whom}</p>
            </div>
          )}
        </Halves>
      )}
    </Sheet>
  )
}

function Points({ page, isGood, title }: { page: Page; isGood: boolean; title: string }) {
  const own = page.card!.points.map((point, i) => ({ point, tie: page.ties[i] }))
  const shown = own.filter((one) => one.point.is_good === isGood)
  if (!shown.length) return null
  return (
    <div>
      <h2>{title}</h2>
      <ul>
        {shown.map(({ point, tie }, i) => (
          <li key={i}>
            {point.says}{' '}
            {tie && (
              <Link to={tie.path}>
                {point.tie!.kind}: {tie.says}
              </Link>
            )}
            {point.tie && !tie && <Soft>the {point.tie.kind} that it rested on is gone since</Soft>}
          </li>
        ))}
      </ul>
    </div>
  )
}

function History({ page }: { page: Page }) {
  const view = useView()
  return (
    <Sheet as="section" aria-label="Versions" sx={{ mt: 1.25 }}>
      <WordList aria-label="Versions">
        {page.versions.map((one) => (
          <li key={one.version}>
            <LinkButton onClick={() => view.go({ version: String(one.version) })}>
              version {one.version}
            </LinkButton>{' '}
            <Soft>{moment(one.at)}</Soft> {one.changes.join('; ') || 'the first'}
          </li>
        ))}
      </WordList>
    </Sheet>
  )
}
