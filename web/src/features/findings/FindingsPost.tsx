import { useQuery } from '@tanstack/react-query'
import { useOutletContext, useSearchParams } from 'react-router'

import { findingsQuery } from '@/api/queries'
import { laneNames, type StudyContext } from '@/api/studyContext'
import type { FindingRow } from '@/api/types'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'

import { RowPanel } from './RowPanel'
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

/** The verdict sheet, and the pictures behind the row that is chosen. */
export function FindingsPost() {
  const { study } = useOutletContext<StudyContext>()
  const findings = useQuery(findingsQuery(study.id))
  const [search, setSearch] = useSearchParams()
  const rows = findings.data?.rows ?? []
  const row = chosenRow(rows, search)
  const baseline = chosenBaseline(row, search)

  const put = (name: string, value: string) => {
    const next = presentSearch()
    next.set(name, value)
    setSearch(next, { replace: true })
  }
  const move = (by: number) => {
    const at = rows.indexOf(chosenRow(rows, presentSearch())!)
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + by))]
    if (next) put('row', next.key)
  }
  const turn = () => {
    const now = chosenRow(rows, presentSearch())
    const lanes = lanesOf(now)
    const next = lanes[(lanes.indexOf(chosenBaseline(now, presentSearch())) + 1) % lanes.length]
    if (next !== undefined) put('against', String(next))
  }
  useShortcuts([
    { key: 'ArrowDown', shown: '↓', says: 'Next verdict', run: () => move(1) },
    { key: 'ArrowUp', shown: '↑', says: 'Verdict before', run: () => move(-1) },
    { key: 'b', says: 'Next baseline', run: turn },
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
  return (
    <div className="two">
      <VerdictSheet findings={findings.data} chosen={row.key} onChoose={(key) => put('row', key)} />
      <RowPanel
        key={row.key}
        studyId={study.id}
        row={row}
        names={laneNames(study)}
        baseline={baseline}
        onBaseline={(lane) => put('against', String(lane))}
      />
    </div>
  )
}
