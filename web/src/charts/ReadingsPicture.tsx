import type { FindingRow, ReadingColumns } from '@/api/types'
import { amount, figure } from '@/format/numbers'
import { token } from '@/theme/tokens'

import {
  MOST_TICKS,
  readingLanes,
  type AxisWish,
  type Frame,
  type LaneShape,
  type QuotedFigure,
} from './layout/readingLanes'
import { AxisMarks } from './marks/AxisMarks'
import { Cross } from './marks/Cross'
import { LaneMark } from './marks/LaneMark'
import { LaneStrip } from './marks/LaneStrip'
import { Pennant } from './marks/Pennant'
import { Picture } from './marks/Picture'

export type ReadingsProps = {
  row: FindingRow
  columns: ReadingColumns
  names: ReadonlyMap<number, string>
  width: number
  frame: Frame
  namesAbove?: boolean
  wish?: AxisWish
  quoted?: readonly QuotedFigure[]
  /** What stands above the lanes; the machine, where several pictures stand side by side. */
  head?: string
}

const MOST_CROSSES = 5
const HEAD_ABOVE = 14
/** Lanes lower than this have their name closer to their upper edge. */
const LOW = 48

/** A lane for each contender: readings, median, interval, failed runs, and the good end. */
export function ReadingsPicture({
  row,
  columns,
  names,
  width,
  frame,
  namesAbove = false,
  wish,
  quoted,
  head,
}: ReadingsProps) {
  const shapes = readingLanes(row, columns, frame, wish, quoted)
  const end = row.good_end === 'low' ? frame.left - 12 : frame.right + 10
  const isThinned = shapes.lanes.some((lane) => lane.bars.length)
  const notes = [
    row.good_end !== 'none' && '⚑ good end',
    shapes.lanes.some((lane) => lane.failed) && '✕ run that failed',
    isThinned && `above ${MOST_TICKS} readings: the taller, the more`,
    shapes.lanes.some((lane) => lane.ticks.some((tick) => tick.reach > 0)) &&
      'shade: to what one reading is good',
    shapes.lanes.some((lane) => lane.quoted.length) && '◇ quoted from elsewhere',
    wish?.isLog && 'log scale',
  ]
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`Readings: ${[row.label, head].filter(Boolean).join(', ')}`}
    >
      <text
        x={head ? 14 : frame.left}
        y={frame.top - HEAD_ABOVE}
        fontSize={head ? 14 : 12}
        className={head ? 'strong' : 'soft'}
      >
        {head ?? 'readings, median, interval'}
      </text>
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo}>
          <line
            x1={0}
            x2={width}
            y1={lane.y + frame.laneHeight}
            y2={lane.y + frame.laneHeight}
            stroke={token('rule')}
          />
          <LaneName
            row={row}
            lane={lane}
            name={names.get(lane.laneNo) ?? ''}
            above={namesAbove}
            room={namesAbove ? width : frame.left}
            isLow={frame.laneHeight < LOW}
          />
          <Lane
            lane={lane}
            middle={lane.y + (namesAbove ? frame.laneHeight - 22 : frame.laneHeight / 2)}
            right={frame.right}
            reach={Math.min(21, frame.laneHeight / 2 - 4)}
          />
        </g>
      ))}
      {row.good_end !== 'none' && (
        <Pennant
          x={end}
          top={frame.top - 2}
          bottom={shapes.bottom}
          side={row.good_end === 'low' ? 'left' : 'right'}
        />
      )}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit={row.scale.label} />
      <text x={namesAbove ? frame.left : 14} y={shapes.bottom + 42} fontSize="12" className="soft">
        {notes.filter(Boolean).join(' · ')}
      </text>
    </Picture>
  )
}

function LaneName({
  row,
  lane,
  name,
  above,
  room,
  isLow,
}: {
  row: FindingRow
  lane: LaneShape
  name: string
  above: boolean
  room: number
  isLow: boolean
}) {
  const found = row.lanes.find((item) => item.lane_no === lane.laneNo)
  const summary = found?.summary
  const interval = summary?.median_interval
  const range = interval ? ` (${figure(interval.low, row.scale)} to ${figure(interval.high, row.scale)})` : ''
  const says = summary ? `${amount(summary.median, row.scale)}${range}` : 'no readings'
  const extra = [
    found?.stalled ? `${found.stalled} stalled` : '',
    interval || !summary ? '' : `n = ${summary.n}`,
  ].filter(Boolean)
  const most = Math.floor((above ? room - 50 - says.length * 6.6 : room - 26) / 7.1)
  const short = name.length > most ? `${name.slice(0, most - 1)}…` : name
  const y = lane.y + (above ? 17 : isLow ? 17 : 24)
  if (above) {
    return (
      <g>
        <title>{[name, says, ...extra].join(', ')}</title>
        <LaneMark laneNo={lane.laneNo} x={20} y={y - 5} r={5} />
        <text x={31} y={y} fontSize="13" className="strong">
          {short}
          <tspan dx={8} fontSize="12.5" fontWeight="400" fill={token('soft')}>
            {says}
          </tspan>
        </text>
      </g>
    )
  }
  return (
    <g>
      <title>{[name, says, ...extra].join(', ')}</title>
      <text x={14} y={y} fontSize="13.5" className="strong">
        {short}
      </text>
      <LaneMark laneNo={lane.laneNo} x={20} y={y + 15} r={5} />
      <text x={31} y={y + 19} fontSize="12.5" className="soft">
        {extra.length ? `${says.replace(/ \(.*/, '')}, ${extra[0]}` : says}
      </text>
    </g>
  )
}

function Lane({
  lane,
  middle,
  right,
  reach,
}: {
  lane: LaneShape
  middle: number
  right: number
  reach: number
}) {
  return (
    <g>
      <LaneStrip lane={lane} middle={middle} reach={reach} />
      {lane.slowFirst !== null && Math.abs(lane.slowFirst - (lane.median ?? 0)) > 24 && (
        <text x={lane.slowFirst} y={middle - 14} fontSize="11" textAnchor="middle" className="soft">
          first
        </text>
      )}
      {Array.from({ length: Math.min(lane.failed, MOST_CROSSES) }, (_, i) => (
        <Cross key={i} x={right - 6 - i * 13} y={lane.y + 10} r={4} />
      ))}
      {lane.failed > MOST_CROSSES && (
        <text
          x={right - 6 - MOST_CROSSES * 13}
          y={lane.y + 15}
          fontSize="12.5"
          textAnchor="end"
          className="strong"
        >
          {lane.failed}
        </text>
      )}
    </g>
  )
}
