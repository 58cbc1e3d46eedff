import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useOutletContext, useSearchParams } from 'react-router'

import { bootPartsQuery, findingsQuery, tracesQuery } from '@/api/queries'
import { laneNames, type StudyContext } from '@/api/studyContext'
import type { FindingRow } from '@/api/types'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'

import { PictureStrip } from './PictureStrip'
import { RowPanel } from './RowPanel'
import { keepOrder, keptOrder, moved, ordered } from './rowOrder'
import { StudyPanel } from './StudyPanel'
import { studyPictures } from './studyPictures'
import { VerdictSheet } from './VerdictSheet'

/** What the address says now; a second key press may come before the page is drawn anew. */
const presentSearch = () => new URLSearchParams(window.location.search)

const chosenRow = (rows: readonly FindingRow[], search: URLSearchParams) =>
  rows.find((item) => item.key === search.get('row')) ?? rows[0]

const lanesOf = (row: FindingRow | undefined) =>
  row?.lanes.filter((lane) => lane.summary).map((lane) => lane.lane_no) ?? []

function chosenBaseline(row: FindingRow | undefined, search: URLSearchParams): number {
  const lanes = lanesOf(row)
  const asked = Number(search.get('against'))
  return lanes.includes(asked) ? asked : (lanes[0] ?? 1)
}

const ofVerdict = (rows: readonly FindingRow[], verdict: string | null) => {
  const found = rows.filter((row) => !verdict || row.verdict === verdict)
  return found.length ? found : rows
}

const VIEWS = ['lanes', 'order', 'spread']

/** The verdict sheet, and the pictures behind the row that is chosen, or of the whole study. */
export function FindingsPost() {
  const { study } = useOutletContext<StudyContext>()
  const [search, setSearch] = useSearchParams()
  const withAside = search.get('aside') === 'with'
  const findings = useQuery(findingsQuery(study.id, withAside))
  const parts = useQuery(bootPartsQuery(study.id))
  const traces = useQuery(tracesQuery(study.id, 'memory.used'))
  const [order, setOrder] = useState(() => keptOrder(study.id))
  const all = ordered(findings.data?.rows ?? [], order)
  const rows = ofVerdict(all, search.get('verdict'))
  const row = chosenRow(rows, search)
  const pictures = findings.data ? studyPictures(findings.data, parts.data ?? [], traces.data ?? []) : []
  const picture = pictures.some((one) => one.id === search.get('picture')) ? search.get('picture')! : ''
  const asked = search.get('view') ?? ''
  const view = VIEWS.includes(asked) ? asked : 'lanes'

  const put = (name: string, value: string) => {
    const next = presentSearch()
    if (value) next.set(name, value)
    else next.delete(name)
    setSearch(next, { replace: true })
  }
  const choose = (key: string) => {
    const next = presentSearch()
    next.set('row', key)
    next.delete('picture')
    setSearch(next, { replace: true })
  }
  const move = (by: number) => {
    const at = rows.indexOf(chosenRow(rows, presentSearch())!)
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + by))]
    if (next) choose(next.key)
  }
  const turn = () => {
    const now = chosenRow(rows, presentSearch())
    const lanes = lanesOf(now)
    const next = lanes[(lanes.indexOf(chosenBaseline(now, presentSearch())) + 1) % lanes.length]
    if (next !== undefined) put('against', String(next))
  }
  const rank = (key: string, to: number) => {
    const next = moved(all.map((one) => one.key), key, to)
    setOrder(next)
    keepOrder(study.id, next)
  }
  const shift = (by: number) => {
    const now = chosenRow(rows, presentSearch())
    if (now) rank(now.key, all.indexOf(now) + by)
  }
  const turnPicture = () => {
    const at = pictures.findIndex((one) => one.id === (presentSearch().get('picture') ?? ''))
    put('picture', pictures[(at + 1) % pictures.length]?.id ?? '')
  }
  const turnVerdict = () => {
    const verdicts = ['', ...new Set(all.map((one) => one.verdict))]
    put('verdict', verdicts[(verdicts.indexOf(presentSearch().get('verdict') ?? '') + 1) % verdicts.length]!)
  }
  useShortcuts([
    { key: 'ArrowDown', shown: '↓', says: 'Next verdict', run: () => move(1) },
    { key: 'ArrowUp', shown: '↑', says: 'Verdict before', run: () => move(-1) },
    { key: '+', says: 'This verdict further up', run: () => shift(-1) },
    { key: '-', says: 'This verdict further down', run: () => shift(1) },
    { key: 'b', says: 'Next baseline', run: turn },
    { key: 'o', says: 'Another picture', run: turnPicture },
    { key: 'f', says: 'Only one verdict', run: turnVerdict },
    { key: 'w', says: withAside ? 'Without what was set aside' : 'With what was set aside', run: () => put('aside', withAside ? '' : 'with') },
  ])
  if (findings.error) return <Failed error={findings.error} onRetry={() => void findings.refetch()} />
  if (!findings.data) return <Loading what="the findings" />
  if (!row) {
    return (
      <Empty title="Nothing was measured yet">
        <p>Start the study at its Run post; findings appear here as readings come in.</p>
      </Empty>
    )
  }
  const names = laneNames(study)
  return (
    <>
      <div className="pictures">
        <PictureStrip label="Picture" choices={pictures} chosen={picture} keyName="O" onChoose={(id) => put('picture', id)} />
      </div>
      {picture === 'card' ? (
        <StudyPanel study={study} findings={findings.data} names={names} picture={picture} />
      ) : <div className="two">
        <VerdictSheet
          findings={findings.data} rows={rows} chosen={picture ? '' : row.key} verdict={search.get('verdict') ?? ''} withAside={withAside}
          onChoose={choose} onVerdict={(verdict) => put('verdict', verdict)}
          onMove={(key, before) => rank(key, all.findIndex((one) => one.key === before))}
        />
        {picture ? (
          <StudyPanel study={study} findings={findings.data} names={names} picture={picture} />
        ) : (
          <RowPanel
            key={row.key} study={study} row={row} names={names} baseline={chosenBaseline(row, search)} view={view}
            onBaseline={(lane) => put('against', String(lane))} onView={(next) => put('view', next === 'lanes' ? '' : next)}
          />
        )}
      </div>}
    </>
  )
}
