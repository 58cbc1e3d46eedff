import { useQuery } from '@tanstack/react-query'
import { useOutletContext, useSearchParams } from 'react-router'

import { findingsQuery } from '@/api/queries'
import { laneNames, type StudyContext } from '@/api/studyContext'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'

import { RowPanel } from './RowPanel'
import { VerdictSheet } from './VerdictSheet'

/** The verdict sheet, and the pictures behind the row that is chosen. */
export function FindingsPost() {
  const { study } = useOutletContext<StudyContext>()
  const findings = useQuery(findingsQuery(study.id))
  const [search, setSearch] = useSearchParams()
  const rows = findings.data?.rows ?? []
  const row = rows.find((item) => item.key === search.get('row')) ?? rows[0]
  const lanes = row?.lanes.filter((lane) => lane.summary).map((lane) => lane.lane_no) ?? []
  const asked = Number(search.get('against'))
  const baseline = lanes.includes(asked) ? asked : (lanes[0] ?? 1)

  const put = (name: string, value: string) =>
    setSearch((now) => {
      const next = new URLSearchParams(now)
      next.set(name, value)
      return next
    }, { replace: true })
  const move = (by: number) => {
    const at = rows.findIndex((item) => item === row)
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + by))]
    if (next) put('row', next.key)
  }
  const turn = () => put('against', String(lanes[(lanes.indexOf(baseline) + 1) % lanes.length]))
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
