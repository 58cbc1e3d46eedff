import { styled } from '@mui/material/styles'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, Navigate, Outlet, useLocation, useNavigate, useParams } from 'react-router'

import { useStudyEvents } from '@/api/events'
import { findingsQuery, sheetQuery, studyQuery } from '@/api/queries'
import type { StudyContext } from '@/api/studyContext'
import { titleOf } from '@/api/studyPage'
import type { RunSheet, Study } from '@/api/types'
import { AppearanceContext } from '@/charts/appearance'
import type { StudyPageName } from '@/charts/layout/mile'
import { MilePicture } from '@/charts/MilePicture'
import { count } from '@/format/numbers'
import { Main, Soft, TitleBar } from '@/ui/kit'
import { later } from '@/ui/later'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { Term } from '@/ui/Term'
import { isReadingsFile, usePastedText } from '@/ui/usePastedText'
import { useWidth } from '@/ui/useWidth'

import { PutAwayLine } from './PutAwayLine'
import { StudyActions } from './StudyActions'
import { StudyMore } from './StudyMore'
import { DropHint, useFileDrop } from '@/ui/useFileDrop'

const IntakeDialog = later(() => import('./IntakeDialog').then((module) => module.IntakeDialog), 'dialog')

const Page = styled('div')({ marginTop: 8 })
const MileLine = styled('nav')({ marginTop: 8 })

const NO_RUNS: RunSheet = {
  metric: null,
  procedure: null,
  label: null,
  scale: null,
  good_end: null,
  margin_amount: null,
  runs: [],
  lanes: [],
  last_event: 0,
  next_after: null,
}
const PAGES: readonly StudyPageName[] = ['Plan', 'Run', 'Findings', 'Report']
const DRAFTED: readonly StudyPageName[] = ['Plan']

const pageAt = (path: string): StudyPageName =>
  PAGES.find((name) => path.endsWith(`/${name.toLowerCase()}`)) ?? 'Run'

/** One study: its question, its mile, and the page where one stands. */
export function StudyFrame() {
  const { studyId = '' } = useParams()
  const study = useQuery(studyQuery(studyId))
  const sheet = useQuery(sheetQuery(studyId))
  const { live, stopped } = useStudyEvents(studyId, sheet.data?.last_event)
  const location = useLocation()
  const navigate = useNavigate()
  const here = pageAt(location.pathname)
  const queries = useQueryClient()
  useEffect(() => {
    // asked for beside study and sheet, rather than after them
    if (here === 'Findings')
      void queries.prefetchQuery(
        findingsQuery(studyId, new URLSearchParams(location.search).get('aside') === 'with'),
      )
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what else stands in the address is no reason to ask
  }, [here, studyId, queries])
  const isDraft = study.data?.draft !== null && study.data?.draft !== undefined
  const pages = isDraft ? DRAFTED : PAGES
  const before = pages[pages.indexOf(here) - 1]
  const next = pages[pages.indexOf(here) + 1]
  const go = (page: StudyPageName) => void navigate(page.toLowerCase())
  useShortcuts([
    ...(before ? [{ key: '[', says: `Page before: ${before}`, run: () => go(before) }] : []),
    ...(next ? [{ key: ']', says: `Next page: ${next}`, run: () => go(next) }] : []),
  ])
  const [brought, setBrought] = useState<readonly File[] | null>(null)
  const isOver = useFileDrop(setBrought)
  usePastedText((text) => {
    if (isReadingsFile(text)) setBrought([new File([text], 'pasted.csv', { type: 'text/csv' })])
    else void navigate(`/studies/${studyId}/pasted`, { state: { text } })
  })
  const title = study.data?.title
  useEffect(() => {
    document.title = title ? `${title} · Hare Mile` : 'Hare Mile'
  }, [title])

  const error = study.error ?? sheet.error
  if (error)
    return (
      <Main>
        <Failed error={error} onRetry={() => void Promise.all([study.refetch(), sheet.refetch()])} />
      </Main>
    )
  if (!study.data || (!sheet.data && here === 'Run'))
    return (
      <Main>
        <Loading what="the study" />
      </Main>
    )
  const isBare = /^\/studies\/[^/]+\/?$/.test(location.pathname)
  if (isBare || (isDraft && here !== 'Plan')) return <Navigate to={isDraft ? 'plan' : 'run'} replace />
  // findings are shown as soon as they are there; what needs the run sheet comes with it
  const known = sheet.data ?? NO_RUNS
  const context: StudyContext = { study: study.data, sheet: known, live }
  const appearances = new Map(study.data.contenders.map((one) => [one.lane_no, one.entrant_no]))
  return (
    <AppearanceContext value={appearances}>
      <Main>
        <TitleBar>
          <div>
            <h1>{titleOf(study.data)}</h1>
            {isDraft ? (
              <Soft as="div">a draft: nothing runs before it is started</Soft>
            ) : (
              <Soft as="div">
                {subtitle(study.data)}, <Term says={orderSaid(study.data)}>{orderWord(study.data)}</Term>
                {study.data.origin && `, taken in from ${study.data.origin}`}
              </Soft>
            )}
          </div>
          {isDraft ? (
            <StudyMore study={study.data} />
          ) : (
            <StudyActions study={study.data} sheet={known} onTakeIn={() => setBrought([])} />
          )}
        </TitleBar>
        {stopped && <Failed error={new Error(`The study stopped: ${stopped}`)} />}
        {study.data.is_put_away && <PutAwayLine study={study.data} />}
        {isOver && <DropHint />}
        {brought && (
          <IntakeDialog
            key={brought.map((file) => file.name).join()}
            study={study.data}
            initial={brought}
            onClose={() => setBrought(null)}
          />
        )}
        <Mile sheet={known} here={here} isDraft={isDraft} isPublished={study.data.published !== null} />
        <Page className="page">
          <Outlet context={context} />
        </Page>
      </Main>
    </AppearanceContext>
  )
}

function subtitle(study: Study): string {
  const machines = [...new Set(study.contenders.map((c) => c.install.machine.name))]
  return [
    count(study.contenders.length, 'contender'),
    machines.join(', '),
    count(study.blocks, 'repeat'),
  ].join(' · ')
}

const orderWord = (study: Study) =>
  study.order === 'visits' ? 'in visits' : study.seed ? 'shuffled order' : 'order as brought in'

const orderSaid = (study: Study) =>
  study.order === 'visits'
    ? 'One contender after the other, with a return to the first: time and contender are mixed up, and the return shows how much.'
    : study.seed
      ? `Each repeat is one block in which every contender runs once; the order within was drawn from seed ${study.seed}.`
      : 'The runs were carried out elsewhere, and stand in the order in which they were brought in.'

type MileProps = { sheet: RunSheet; here: StudyPageName; isDraft: boolean; isPublished: boolean }

function Mile({ sheet, here, isDraft, isPublished }: MileProps) {
  const [ref, width] = useWidth<HTMLElement>(1224)
  const finished = sheet.runs.filter((run) => !['planned', 'leased', 'running'].includes(run.state)).length
  const failed = sheet.runs.filter((run) => run.state === 'failed').length
  const skipped = sheet.runs.filter((run) => run.state === 'skipped').length
  const says =
    sheet.runs.length === 0
      ? ''
      : [
          `${finished - skipped} of ${count(sheet.runs.length, 'run')} done`,
          failed ? `${failed} of them failed` : '',
          skipped ? `${skipped} skipped` : '',
        ]
          .filter(Boolean)
          .join(', ')
  return (
    <MileLine ref={ref} className="mileline" aria-label="The study’s mile">
      <MilePicture
        width={width}
        share={isDraft ? null : sheet.runs.length ? finished / sheet.runs.length : 0}
        here={here}
        names={PAGES}
        isPublished={isPublished}
        says={width < 480 ? '' : says}
        link={(name, children) =>
          isDraft && name !== 'Plan' ? (
            <g opacity={0.5}>{children}</g>
          ) : (
            <Link
              to={name.toLowerCase()}
              aria-current={name === here ? 'page' : undefined}
              aria-label={`${name} page`}
            >
              {children}
            </Link>
          )
        }
      />
    </MileLine>
  )
}
