import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { FindingRow, Study } from '@/api/types'
import { columnsQuery } from '@/api/queries'
import { OrderPicture } from '@/charts/OrderPicture'
import { RowPicture } from '@/charts/RowPicture'
import { SpreadPicture } from '@/charts/SpreadPicture'
import { unitWord } from '@/format/numbers'
import { MethodLink } from '@/ui/MethodLink'
import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { useWidth } from '@/ui/useWidth'

import { KeepButtons } from './KeepButtons'
import { PictureStrip } from './PictureStrip'
import { ReadingTable } from './ReadingTable'
import { rowCsv } from './rowCsv'

const VIEWS = [
  { id: 'lanes', label: 'Lanes' },
  { id: 'order', label: 'In order' },
  { id: 'spread', label: 'Spread' },
]

type Props = {
  study: Study
  row: FindingRow
  names: ReadonlyMap<number, string>
  baseline: number
  view: string
  onBaseline: (lane: number) => void
  onView: (view: string) => void
}

/** The answer of one row, its pictures, and its readings. */
export function RowPanel({ study, row, names, baseline, view, onBaseline, onView }: Props) {
  const columns = useQuery(columnsQuery(study.id, row.metric))
  const [ref, width] = useWidth<HTMLDivElement>(828)
  const [isOpen, setOpen] = useState(false)
  const next = VIEWS[(VIEWS.findIndex((one) => one.id === view) + 1) % VIEWS.length]!.id
  const about = [unitWord(row.scale.label), row.machine, row.start?.replaceAll('-', ' '), row.method.replaceAll('-', ' ')].filter(Boolean).join(', ')
  const used = row.lanes.reduce((sum, lane) => sum + (lane.summary?.n ?? 0), 0)
  const drawn = { row, columns: columns.data!, names, width }
  useShortcuts([{ key: 'v', says: 'Another view of this measure', run: () => onView(next) }])
  useShortcuts([{ key: 'r', says: isOpen ? 'Hide the readings' : 'Show the readings', run: () => setOpen(!isOpen) }])
  return (
    <div className="sheet" ref={ref}>
      <div className="paneltop">
        <h2>{row.label}</h2>
        <span className="soft">{about}</span>
        <PictureStrip label="View" choices={VIEWS} chosen={view} keyName="V" onChoose={onView} />
        {view === 'lanes' && <label className="spread soft">
          against{' '}
          <select value={baseline} onChange={(event) => onBaseline(Number(event.target.value))}>
            {row.lanes.filter((lane) => lane.summary).map((lane) => (
              <option key={lane.lane_no} value={lane.lane_no}>
                {names.get(lane.lane_no)}
              </option>
            ))}
          </select>
          <KeyHint name="B" />
        </label>}
      </div>
      <p className="answer" data-testid="answer">{row.sentence}</p>
      {columns.error && <Failed error={columns.error} onRetry={() => void columns.refetch()} />}
      {columns.isPending && <Loading what="the readings" />}
      {columns.data && view === 'order' && <OrderPicture {...drawn} />}
      {columns.data && view === 'spread' && <SpreadPicture {...drawn} />}
      {columns.data && view === 'lanes' && <RowPicture {...drawn} baseline={baseline} />}
      <RowFoot row={row} isOpen={isOpen} onToggle={() => setOpen(!isOpen)} />
      {columns.data && (
        <div className="foot">
          <KeepButtons
            box={ref} name={[study.title, row.label, view]} data={() => rowCsv(row, columns.data, names)}
            head={[row.sentence, `${row.label}; ${about}; n = ${used}; ${study.title}`]}
          />
        </div>
      )}
      {isOpen && columns.data && <ReadingTable row={row} columns={columns.data} names={names} />}
    </div>
  )
}

function RowFoot({ row, isOpen, onToggle }: { row: FindingRow; isOpen: boolean; onToggle: () => void }) {
  const total = (pick: (lane: FindingRow['lanes'][number]) => number) => row.lanes.reduce((sum, lane) => sum + pick(lane), 0)
  const [used, failed, aside] = [total((l) => l.summary?.n ?? 0), total((l) => l.failed), total((l) => l.set_aside)]
  const all = used + failed + aside
  const notes = row.fair_start.length
  return (
    <div className="foot">
      <span>
        <b>{used}</b> of {all} runs count{failed || aside ? ': ' : ''}
        {[failed ? `${failed} failed` : '', aside ? `${aside} set aside` : ''].filter(Boolean).join(', ')}
      </span>
      <span title={row.fair_start.map((d) => `${d.grade}: ${d.sentence}`).join('\n')}>
        Fair start: <b>{notes ? row.fair_start.map((d) => `${d.grade} (${d.label})`).join(', ') : 'the same'}</b>
      </span>
      <span>
        margin {row.margin_text}; speaks of {row.speaks_of}; {row.family === 1 ? 'one pair' : `${row.family} pairs share the error`}
      </span>
      <MethodLink to="two-lanes" />
      <button className="plain spread" onClick={onToggle} aria-expanded={isOpen}>
        {isOpen ? 'Hide readings' : 'Readings'}
        <KeyHint name="R" />
      </button>
    </div>
  )
}
