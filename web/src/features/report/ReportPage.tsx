import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { useOutletContext } from 'react-router'

import {
  reportQuery,
  useBeginReportAgain,
  usePublishReport,
  useWriteReport,
  type Report,
  type ReportIn,
} from '@/api/report'
import type { StudyContext } from '@/api/studyContext'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, LinkButton, Soft, Stack, Working } from '@/ui/kit'
import { later } from '@/ui/later'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { UndoBar } from '@/ui/UndoBar'

import { PartList } from './PartList'
import { ReportSheet } from './ReportSheet'
import { VersionList } from './VersionList'
import { Words } from './Words'

const RaceDialog = later(() => import('./RaceDialog').then((module) => module.RaceDialog), 'dialog')

const Desk = styled('div')({
  display: 'grid',
  gridTemplateColumns: '340px minmax(0, 1fr)',
  gap: 14,
  alignItems: 'start',
  '@media (max-width:900px)': { gridTemplateColumns: 'minmax(0, 1fr)' },
})

/** The last post of the mile: what is published. */
export function ReportPage() {
  const { study } = useOutletContext<StudyContext>()
  const found = useQuery(reportQuery(study.id))
  if (found.error) return <Failed error={found.error} onRetry={() => void found.refetch()} />
  if (!found.data) return <Loading what="the report" />
  return <Writing studyId={study.id} report={found.data} />
}

const wordsOf = (report: Report): ReportIn => ({
  headline: report.headline,
  lead: report.lead,
  credits: report.credits,
  parts: report.parts.map(({ kind, key, is_shown }) => ({ kind, key, is_shown })),
})

function Writing({ studyId, report }: { studyId: string; report: Report }) {
  const write = useWriteReport(studyId)
  const again = useBeginReportAgain(studyId)
  const publish = usePublishReport(studyId)
  const [before, setBefore] = useState<ReportIn | null>(null)
  const [isRacing, setRacing] = useState(false)
  const [round, setRound] = useState(0)
  const [own, setOwn] = useState<ReportIn | null>(null)
  const words = own ?? wordsOf(report)
  // one after the other, so that what was written last is what is kept
  const writing = useRef<Promise<unknown>>(Promise.resolve())
  const keep = (next: ReportIn) => {
    setOwn(next)
    writing.current = writing.current.catch(() => undefined).then(() => write.mutateAsync(next))
    writing.current.catch(() => undefined) // told by the mutation itself
  }
  const put = (more: Partial<ReportIn>) => keep({ ...words, ...more })
  const makeVersion = () => {
    if (!publish.isPending)
      void writing.current.then(
        () => publish.mutate(),
        () => undefined,
      )
  }
  const titles = new Map(report.parts.map((one) => [`${one.kind} ${one.key}`, one.title]))
  const parts = words.parts.map((one) => ({ ...one, title: titles.get(`${one.kind} ${one.key}`) ?? one.key }))
  const isTimed = report.content.sections.some(
    ({ figure }) => figure?.kind === 'finding' && figure.row.unit === 's',
  )
  useShortcuts([
    { key: 'p', says: 'Publish what the report says now', run: makeVersion },
    ...(isTimed ? [{ key: 'r', says: 'Replay the race', run: () => setRacing(true) }] : []),
  ])
  const newest = report.versions[0]
  return (
    <Stack>
      <Actions className="noprint">
        <Soft role="status">
          {newest
            ? report.since.length
              ? `Version ${newest.version} is out; the report says more now.`
              : `Version ${newest.version} is out and says the same.`
            : 'A complete draft; nothing is published yet.'}
        </Soft>
        {isTimed && (
          <Button variant="outlined" color="inherit" onClick={() => setRacing(true)}>
            Replay the race
            <KeyHint name="R" />
          </Button>
        )}
        <Button variant="contained" onClick={makeVersion} disabled={publish.isPending}>
          {newest ? `Publish version ${newest.version + 1}` : 'Publish'}
          <KeyHint name="P" />
        </Button>
      </Actions>
      {publish.isPending && <Working role="status">Writing the version …</Working>}
      {[write.error, again.error, publish.error].map((error, i) => error && <Failed key={i} error={error} />)}
      <Desk>
        <Stack>
          <Words key={round} words={words} onWrite={put} isKept={report.is_written && !write.isPending} />
          <PartList
            parts={parts}
            onChange={(all) =>
              put({ parts: all.map(({ kind, key, is_shown }) => ({ kind, key, is_shown })) })
            }
          />
          {report.is_written && (
            <LinkButton
              onClick={() => {
                setBefore(words)
                again.mutate(undefined, {
                  onSuccess: () => {
                    setOwn(null)
                    setRound(round + 1)
                  },
                })
              }}
            >
              Begin again from the findings
            </LinkButton>
          )}
          <VersionList studyId={studyId} report={report} />
        </Stack>
        <ReportSheet report={report} />
      </Desk>
      {isRacing && <RaceDialog studyId={studyId} report={report} onClose={() => setRacing(false)} />}
      {before && (
        <UndoBar
          says="Begun again from the findings"
          onDone={() => setBefore(null)}
          onUndo={() => {
            keep(before)
            setRound(round + 1)
            setBefore(null)
          }}
        />
      )}
    </Stack>
  )
}
