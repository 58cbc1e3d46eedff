import { useId } from 'react'

import type { FindingRow, ReadingColumns } from '@/api/types'
import { amount, figure } from '@/format/numbers'
import { laneLook } from '@/theme/lanes'
import { token } from '@/theme/tokens'

import { differenceLanes, type DifferenceShape } from './layout/differenceLanes'
import { readingLanes, type LaneShape } from './layout/readingLanes'
import { AxisMarks } from './marks/AxisMarks'
import { Cross } from './marks/Cross'
import { LaneMark } from './marks/LaneMark'
import { Pennant } from './marks/Pennant'

type Props = {
  row: FindingRow
  columns: ReadingColumns
  names: ReadonlyMap<number, string>
  baseline: number
  width: number
}

const TOP = 34
const NARROW = 620
const MOST_CROSSES = 5

/** Readings lanes beside difference lanes; on narrow pages one above the other. */
export function RowPicture(props: Props) {
  const { row, width } = props
  if (width < NARROW) {
    return (
      <>
        <ReadingsPicture {...props} frame={{ left: 22, right: width - 22, top: 46, laneHeight: 88 }} namesAbove />
        {row.lanes.length > 1 && (
          <DifferencesPicture {...props} frame={{ left: 40, right: width - 76, top: 46, laneHeight: 66 }} withNames />
        )}
      </>
    )
  }
  const laneHeight = row.lanes.length > 6 ? 50 : 62
  const left = Math.min(250, Math.max(186, width * 0.24))
  const middle = left + (width - left) * 0.58
  return (
    <div style={{ display: 'grid', gridTemplateColumns: `${middle}px ${width - middle}px` }}>
      <ReadingsPicture {...props} width={middle} frame={{ left: left + 12, right: middle - 24, top: TOP, laneHeight }} />
      <DifferencesPicture
        {...props}
        width={width - middle}
        frame={{ left: 34, right: width - middle - 92, top: TOP, laneHeight }}
      />
    </div>
  )
}

type PartProps = Props & {
  frame: { left: number; right: number; top: number; laneHeight: number }
  namesAbove?: boolean
  withNames?: boolean
}

function ReadingsPicture({ row, columns, names, width, frame, namesAbove = false }: PartProps) {
  const shapes = readingLanes(row, columns, frame)
  const end = row.good_end === 'low' ? frame.left - 12 : frame.right + 10
  return (
    <svg className="picture" viewBox={`0 0 ${width} ${shapes.height}`} role="img" aria-label={`Readings: ${row.label}`}>
      <text x={frame.left} y={TOP - 14} fontSize="12" className="soft">
        readings, median, interval
      </text>
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo}>
          <line x1={0} x2={width} y1={lane.y + frame.laneHeight} y2={lane.y + frame.laneHeight} style={{ stroke: token('rule') }} />
          <LaneName row={row} lane={lane} name={names.get(lane.laneNo) ?? ''} above={namesAbove} room={frame.left} />
          <Lane lane={lane} middle={lane.y + (namesAbove ? 62 : frame.laneHeight / 2)} right={frame.right} />
        </g>
      ))}
      {row.good_end !== 'none' && (
        <Pennant x={end} top={frame.top - 2} bottom={shapes.bottom} side={row.good_end === 'low' ? 'left' : 'right'} />
      )}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit={row.scale.label} />
      <text x={namesAbove ? frame.left : 14} y={shapes.bottom + 42} fontSize="12" className="soft">
        {[row.good_end !== 'none' && '⚑ good end', shapes.lanes.some((l) => l.failed) && '✕ run that failed']
          .filter(Boolean)
          .join('   ')}
      </text>
    </svg>
  )
}

function LaneName({ row, lane, name, above, room }: { row: FindingRow; lane: LaneShape; name: string; above: boolean; room: number }) {
  const found = row.lanes.find((item) => item.lane_no === lane.laneNo)
  const summary = found?.summary
  const interval = summary?.median_interval
  const range = interval ? ` (${figure(interval.low, row.scale)} to ${figure(interval.high, row.scale)})` : ''
  const says = summary ? `${amount(summary.median, row.scale)}${range}` : 'no readings'
  const extra = [
    found?.stalled ? `${found.stalled} stalled` : '',
    interval || !summary ? '' : `n = ${summary.n}`,
  ].filter(Boolean)
  const most = above ? 34 : Math.floor((room - 26) / 7)
  const short = name.length > most ? `${name.slice(0, most - 1)}…` : name
  const y = lane.y + (above ? 18 : 24)
  return (
    <g>
      <title>{[name, says, ...extra].join(', ')}</title>
      <text x={14} y={y} fontSize="13.5" className="strong">
        {short}
      </text>
      <LaneMark laneNo={lane.laneNo} x={20} y={y + 15} r={5} />
      <text x={31} y={y + 19} fontSize="12.5" className="soft">
        {extra.length && !above ? `${says.replace(/ \(.*/, '')}, ${extra[0]}` : says}
      </text>
    </g>
  )
}

function Lane({ lane, middle, right }: { lane: LaneShape; middle: number; right: number }) {
  const { colour } = laneLook(lane.laneNo)
  return (
    <g>
      {lane.interval && (
        <rect
          x={lane.interval[0]}
          width={Math.max(1, lane.interval[1] - lane.interval[0])}
          y={middle - 18}
          height={36}
          rx={2}
          style={{ fill: colour, opacity: 0.22 }}
        />
      )}
      {lane.ticks.map((item) => (
        <line
          key={item.id}
          x1={item.x}
          x2={item.x}
          y1={middle - (item.isAside ? 5 : 10)}
          y2={middle + (item.isAside ? 5 : 10)}
          style={{ stroke: colour, strokeWidth: 1.6, opacity: 0.75, strokeDasharray: item.isAside ? '2 2' : undefined }}
        />
      ))}
      {lane.slowFirst !== null && Math.abs(lane.slowFirst - (lane.median ?? 0)) > 24 && (
        <text x={lane.slowFirst} y={middle - 14} fontSize="11" textAnchor="middle" className="soft">
          first
        </text>
      )}
      {lane.median !== null && (
        <rect x={lane.median - 2.5} width={5} y={middle - 21} height={42} rx={2} style={{ fill: colour }} />
      )}
      {Array.from({ length: Math.min(lane.failed, MOST_CROSSES) }, (_, i) => (
        <Cross key={i} x={right - 6 - i * 13} y={lane.y + 10} r={4} />
      ))}
      {lane.failed > MOST_CROSSES && (
        <text x={right - 6 - MOST_CROSSES * 13} y={lane.y + 15} fontSize="12.5" textAnchor="end" className="strong">
          {lane.failed}
        </text>
      )}
    </g>
  )
}

function DifferencesPicture({ row, names, baseline, width, frame, withNames = false }: PartProps) {
  const shapes = differenceLanes(row, baseline, frame)
  const hatch = useId()
  const top = frame.top - 2
  return (
    <svg className="picture" viewBox={`0 0 ${width} ${shapes.height}`} role="img" aria-label={`Differences against the baseline: ${row.label}`}>
      <defs>
        <pattern id={hatch} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="6" style={{ stroke: token('rule'), strokeWidth: 2.8 }} />
        </pattern>
      </defs>
      <text x={frame.left - 10} y={TOP - 14} fontSize="12" className="soft">
        typical difference, run against run
      </text>
      {!withNames && <line x1={0.5} x2={0.5} y1={top} y2={shapes.bottom} style={{ stroke: token('rule') }} />}
      {shapes.strip && (
        <rect x={shapes.strip[0]} width={Math.max(2, shapes.strip[1] - shapes.strip[0])} y={top} height={shapes.bottom - top} fill={`url(#${hatch})`} />
      )}
      <line x1={shapes.zero} x2={shapes.zero} y1={top} y2={shapes.bottom} style={{ stroke: token('soft'), strokeDasharray: '3 3' }} />
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo}>
          <line x1={0} x2={width} y1={lane.y + frame.laneHeight} y2={lane.y + frame.laneHeight} style={{ stroke: token('rule') }} />
          {withNames && (
            <text x={14} y={lane.y + 17} fontSize="12.5" className="strong">
              {names.get(lane.laneNo)}
            </text>
          )}
          <Difference lane={lane} isBaseline={lane.laneNo === baseline} y={lane.y + (withNames ? 50 : frame.laneHeight / 2 + 6)} right={width} />
        </g>
      ))}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit={row.scale.label} />
      {shapes.strip && (
        <text x={frame.left - 10} y={shapes.bottom + 42} fontSize="12" className="soft">
          hatched: too small to matter ({row.margin_text})
        </text>
      )}
    </svg>
  )
}

type DifferenceProps = { lane: DifferenceShape; isBaseline: boolean; y: number; right: number }

function Difference({ lane, isBaseline, y, right }: DifferenceProps) {
  const { colour } = laneLook(lane.laneNo)
  if (isBaseline || !lane.pair) {
    return (
      <text x={lane.x} y={y + 3} fontSize="12" textAnchor="middle" className={isBaseline ? 'strong' : 'soft'}>
        {isBaseline ? 'baseline' : 'no readings'}
      </text>
    )
  }
  return (
    <g>
      <title>{lane.pair.sentence}</title>
      <line x1={lane.low} x2={Math.max(lane.high, lane.low + 0.1)} y1={y} y2={y} style={{ stroke: colour, strokeWidth: 5, strokeLinecap: 'round' }} />
      <LaneMark laneNo={lane.laneNo} x={lane.x} y={y} r={5.5} />
      <text x={lane.x} y={y - 12} fontSize="12.5" textAnchor="middle" className="strong">
        {lane.label}
      </text>
      <text x={right - 8} y={y + 4} fontSize="12.5" textAnchor="end" className={lane.pair.verdict === 'open' ? 'soft' : 'strong'}>
        {lane.pair.verdict}
      </text>
    </g>
  )
}
