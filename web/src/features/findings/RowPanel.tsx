import { useQuery } from '@tanstack/react-query'

import { columnsQuery, disturbancesQuery, rowNotesQuery } from '@/api/queries'
import type { FindingRow, Findings, ReadingColumns, RunSheet, Study } from '@/api/types'
import { MachinesPicture } from '@/charts/MachinesPicture'
import { OrderPicture } from '@/charts/OrderPicture'
import { RowPicture } from '@/charts/RowPicture'
import { SpreadPicture } from '@/charts/SpreadPicture'
import { StartsPicture } from '@/charts/StartsPicture'
import { machinesTable, onMachines } from '@/charts/layout/machineGrid'
import { orderMarks } from '@/charts/layout/orderMarks'
import { servesLog } from '@/charts/layout/readingLanes'
import { rowTable } from '@/charts/layout/rowTable'
import { startsOf, startsSaid, startsTable } from '@/charts/layout/startLanes'
import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { later } from '@/ui/later'

import { Chooser } from './Chooser'
import { Panel } from './Panel'
import { PictureStrip } from './PictureStrip'
import { RowFoot } from './RowFoot'
import { rowCsv } from './rowCsv'
import { aboutRow } from './rowWords'
import { useView } from './useView'

const ReadingTable = later(() => import('./ReadingTable').then((module) => module.ReadingTable))

type Names = ReadonlyMap<number, string>

type Props = {
  study: Study
  findings: Findings
  sheet: RunSheet
  row: FindingRow
  names: Names
  baseline: number
  onBaseline: (lane: number) => void
}

/** The views of a row for which there is something to show. */
export function viewsOf(row: FindingRow, rows: readonly FindingRow[]) {
  return [
    { id: 'lanes', label: 'Lanes' },
    { id: 'order', label: 'In order' },
    { id: 'spread', label: 'Spread' },
    ...(startsOf(row, rows).length > 1 ? [{ id: 'starts', label: 'Cold and warm' }] : []),
    ...(onMachines(row, rows).length > 1 ? [{ id: 'machines', label: 'Every machine' }] : []),
  ]
}

/** The answer of one row, its pictures, and its readings. */
export function RowPanel(props: Props) {
  const { study, findings, row, names } = props
  const columns = useQuery(columnsQuery(study.id, row.metric))
  const view = useView()
  const views = viewsOf(row, findings.rows)
  const shown = views.some((one) => one.id === view.get('view')) ? view.get('view') : 'lanes'
  const choose = (id: string) => view.put({ view: id === 'lanes' ? '' : id })
  const isOpen = view.get('readings') === 'shown'
  const toggle = () => view.put({ readings: isOpen ? '' : 'shown' })
  useShortcuts([
    { key: 'v', says: 'Another view of this measure', run: () => choose(views[(views.findIndex((one) => one.id === shown) + 1) % views.length]!.id) },
    { key: 'r', says: isOpen ? 'Hide the readings' : 'Show the readings', run: toggle },
  ])
  return (
    <Panel
      study={study} title={row.label} about={aboutRow(row)} {...saidOf(shown, row, findings)}
      table={tableOf(shown, props)} data={() => (columns.data ? rowCsv(row, columns.data, names) : '')}
      controls={<Controls {...props} views={views} shown={shown} columns={columns.data} onChoose={choose} />}
      after={
        <>
          <Words row={row} baseline={view.get('against') ? props.baseline : null} names={names} />
          {columns.data && <Notes study={study} row={row} names={names} />}
          <RowFoot study={study} row={row} isOpen={isOpen} onToggle={toggle} />
          {isOpen && columns.data && <ReadingTable row={row} columns={columns.data} names={names} />}
        </>
      }
    >
      {(width) => (
        <>
          {columns.error && <Failed error={columns.error} onRetry={() => void columns.refetch()} />}
          {columns.isPending && <Loading what="the readings" />}
          {columns.data && <Shown {...props} shown={shown} columns={columns.data} width={width} />}
        </>
      )}
    </Panel>
  )
}

/** What the panel says: the row's own answer, or that of the view that shows more than the row. */
function saidOf(shown: string, row: FindingRow, findings: Findings): { headline: string; says: string } {
  if (shown === 'starts') {
    return { headline: startsSaid(startsOf(row, findings.rows)), says: 'Cold and warm starts are different things: they are never pooled, and each has a verdict of its own.' }
  }
  const over = findings.machines.find((one) => one.metric === row.metric && one.method === row.method && one.start === row.start && one.facet === row.facet)
  if (shown === 'machines' && over) return { headline: over.headline, says: over.sentence }
  return { headline: row.headline, says: row.sentence }
}

function tableOf(shown: string, { row, findings, baseline, names }: Props) {
  if (shown === 'starts') return startsTable(startsOf(row, findings.rows), names)
  if (shown === 'machines') return machinesTable(onMachines(row, findings.rows), names)
  return rowTable(row, baseline, names)
}

const isLogAsked = (asked: string, row: FindingRow, columns: ReadingColumns) =>
  asked ? asked === 'log' : servesLog([row], columns)

type ShownProps = Props & { shown: string; columns: ReadingColumns; width: number }

function Shown({ study, findings, sheet, row, names, baseline, shown, columns, width }: ShownProps) {
  const noted = useQuery(disturbancesQuery(study.id))
  const view = useView()
  const drawn = { row, columns, names, width }
  if (shown === 'order') return <OrderPicture {...drawn} noted={orderMarks(row, sheet, noted.data ?? [])} />
  if (shown === 'spread') return <SpreadPicture {...drawn} />
  if (shown === 'starts') return <StartsPicture rows={startsOf(row, findings.rows)} columns={columns} names={names} width={width} />
  if (shown === 'machines') return <MachinesPicture rows={onMachines(row, findings.rows)} columns={columns} names={names} width={width} />
  return <RowPicture {...drawn} baseline={baseline} wish={{ isLog: isLogAsked(view.get('scale'), row, columns) }} />
}

type ControlProps = Props & { views: { id: string; label: string }[]; shown: string; columns?: ReadingColumns; onChoose: (id: string) => void }

function Controls({ row, names, baseline, onBaseline, views, shown, columns, onChoose }: ControlProps) {
  const view = useView()
  const isLog = columns !== undefined && isLogAsked(view.get('scale'), row, columns)
  const turn = () => view.put({ scale: isLog ? 'linear' : 'log' })
  const lanes = row.lanes.filter((lane) => lane.summary)
  const canLog = shown === 'lanes' && (lanes[0]?.summary?.minimum ?? 0) > 0
  useShortcuts(canLog ? [{ key: 'l', says: isLog ? 'Linear scale' : 'Log scale', run: turn }] : [])
  return (
    <>
      <PictureStrip label="View" choices={views} chosen={shown} keyName="V" onChoose={onChoose} />
      {shown === 'lanes' && (
        <span className="spread noprint" style={{ display: 'inline-flex', gap: 12, alignItems: 'baseline', flexWrap: 'wrap' }}>
          {canLog && <button className="plain" aria-pressed={isLog} onClick={turn}>{isLog ? 'linear' : 'log'} scale<KeyHint name="L" /></button>}
          <Chooser
            label="against" keyName="B" chosen={String(baseline)} onChoose={(lane) => onBaseline(Number(lane))}
            options={lanes.map((lane) => ({ id: String(lane.lane_no), label: names.get(lane.lane_no) ?? '' }))}
          />
        </span>
      )}
    </>
  )
}

/** Every contender against the baseline that a person chose, in words. */
function Words({ row, baseline, names }: { row: FindingRow; baseline: number | null; names: Names }) {
  const pairs = row.pairs.filter((pair) => pair.a === baseline)
  if (baseline === null || !pairs.length) return null
  return (
    <ul className="words" aria-label={`Against ${names.get(baseline)}`}>
      {pairs.map((pair) => <li key={pair.b}>{pair.sentence}</li>)}
    </ul>
  )
}

/** What the order of the runs tells of single lanes. */
function Notes({ study, row, names }: { study: Study; row: FindingRow; names: Names }) {
  const found = useQuery(rowNotesQuery(study.id, row.key))
  const told = (found.data ?? []).filter((lane) => lane.notes.length)
  if (!told.length) return null
  return (
    <ul className="words" data-testid="notes">
      {told.map((lane) => (
        <li key={lane.lane_no}><b>{names.get(lane.lane_no)}:</b> {lane.notes.join(' ')}</li>
      ))}
    </ul>
  )
}
