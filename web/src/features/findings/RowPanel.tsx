import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'

import { columnsQuery, rowNotesQuery } from '@/api/queries'
import type { FindingRow, ReadingColumns, Study } from '@/api/types'
import { KeyHint } from '@/ui/KeyHint'
import { Plain, Soft, WordList } from '@/ui/kit'
import { later } from '@/ui/later'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'

import { Chooser } from '@/ui/Chooser'
import { Panel } from './Panel'
import { PictureStrip } from './PictureStrip'
import { QuotedFigures } from './QuotedFigures'
import { rowCsv } from './rowCsv'
import { RowFoot } from './RowFoot'
import { Noise } from './Noise'
import { Steps } from './Steps'
import { Tails } from './Tails'
import { isLogAsked, ROW_VIEWS, type RowProps } from './rowViews'
import { aboutRow } from './rowWords'
import { useView } from '@/ui/useView'

const ReadingTable = later(() => import('./ReadingTable').then((module) => module.ReadingTable))

const Deeds = styled('span')({ display: 'inline-flex', gap: 12, alignItems: 'baseline', flexWrap: 'wrap' })

type Names = ReadonlyMap<number, string>

type Props = RowProps & { onBaseline: (lane: number) => void }

/** The answer of one row, its pictures, and its readings. */
export function RowPanel(props: Props) {
  const { study, findings, row, names } = props
  const columns = useQuery(columnsQuery(study.id, row.metric))
  const view = useView()
  const views = ROW_VIEWS.filter((one) => one.isFor(row, findings.rows))
  const asked = view.get('view') || 'lanes'
  const shown = views.find((one) => one.id === asked) ?? views[0]!
  const choose = (id: string) => view.go({ view: id === 'lanes' ? '' : id })
  const isOpen = view.get('readings') === 'shown'
  const toggle = () => view.put({ readings: isOpen ? '' : 'shown' })
  useShortcuts([
    {
      key: 'v',
      says: 'Another view of this measure',
      run: () => choose(views[(views.indexOf(shown) + 1) % views.length]!.id),
    },
    { key: 'r', says: isOpen ? 'Hide the readings' : 'Show the readings', run: toggle },
  ])
  return (
    <Panel
      study={study}
      title={row.label}
      about={aboutRow(row)}
      method={row.method}
      {...shown.said(row, findings)}
      table={shown.table(props)}
      data={() => (columns.data ? rowCsv(row, columns.data, names) : '')}
      controls={
        <Controls {...props} views={views} shown={shown.id} columns={columns.data} onChoose={choose} />
      }
      after={
        <>
          <Words row={row} baseline={view.get('against') ? props.baseline : null} names={names} />
          {columns.data && <Notes study={study} row={row} names={names} />}
          <Steps study={study} row={row} baseline={props.baseline} names={names} />
          <Tails study={study} row={row} baseline={props.baseline} names={names} />
          <Noise study={study} row={row} />
          <QuotedFigures study={study} row={row} names={names} />
          <RowFoot study={study} row={row} isOpen={isOpen} onToggle={toggle} />
          {isOpen && columns.data && <ReadingTable row={row} columns={columns.data} names={names} />}
        </>
      }
    >
      {(width) => (
        <>
          {columns.error && <Failed error={columns.error} onRetry={() => void columns.refetch()} />}
          {columns.isPending && <Loading what="the readings" />}
          {asked !== shown.id && (
            <Soft as="p" role="status" sx={{ px: 2, m: 0 }}>
              {viewMissing(asked)}
            </Soft>
          )}
          {columns.data && <shown.Shown {...props} columns={columns.data} width={width} />}
        </>
      )}
    </Panel>
  )
}

/** What is said of a view that an address asks for in vain. */
function viewMissing(asked: string) {
  const known = ROW_VIEWS.find((one) => one.id === asked)
  return known
    ? `This measure has nothing for the view “${known.label}”; its lanes are shown.`
    : `There is no view called “${asked}”; the lanes are shown.`
}

type ControlProps = Props & {
  views: { id: string; label: string }[]
  shown: string
  columns?: ReadingColumns
  onChoose: (id: string) => void
}

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
        <Deeds className="spread noprint">
          {canLog && (
            <Plain aria-pressed={isLog} onClick={turn}>
              {isLog ? 'linear' : 'log'} scale
              <KeyHint name="L" />
            </Plain>
          )}
          <Chooser
            label="against"
            keyName="B"
            chosen={String(baseline)}
            onChoose={(lane) => onBaseline(Number(lane))}
            options={lanes.map((lane) => ({
              id: String(lane.lane_no),
              label: names.get(lane.lane_no) ?? '',
            }))}
          />
        </Deeds>
      )}
    </>
  )
}

/** Every contender against the baseline that a person chose, in words. */
function Words({ row, baseline, names }: { row: FindingRow; baseline: number | null; names: Names }) {
  const pairs = row.pairs.filter((pair) => pair.a === baseline)
  if (baseline === null || !pairs.length) return null
  return (
    <WordList aria-label={`Against ${names.get(baseline)}`}>
      {pairs.map((pair) => (
        <li key={pair.b}>{pair.sentence}</li>
      ))}
    </WordList>
  )
}

/** What the order of the runs tells of single lanes. */
function Notes({ study, row, names }: { study: Study; row: FindingRow; names: Names }) {
  const found = useQuery(rowNotesQuery(study.id, row.key))
  const told = (found.data ?? []).filter((lane) => lane.notes.length)
  if (!told.length) return null
  return (
    <WordList data-testid="notes">
      {told.map((lane) => (
        <li key={lane.lane_no}>
          <b>{names.get(lane.lane_no)}:</b> {lane.notes.join(' ')}
        </li>
      ))}
    </WordList>
  )
}
