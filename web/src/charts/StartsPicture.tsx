import type { FindingRow, ReadingColumns } from '@/api/types'
import { amount } from '@/format/numbers'
import { token } from '@/theme/tokens'

import { startLanes } from './layout/startLanes'
import { AxisMarks } from './marks/AxisMarks'
import { LaneStrip } from './marks/LaneStrip'
import { LaneTitle } from './marks/LaneTitle'
import { Pennant } from './marks/Pennant'
import { Picture } from './marks/Picture'

type Props = {
  rows: readonly FindingRow[]
  columns: ReadingColumns
  names: ReadonlyMap<number, string>
  width: number
}

const NARROW = 620
const STRIP = 34

/** Cold and warm of each contender, one above the other in its lane. */
export function StartsPicture({ rows, columns, names, width }: Props) {
  const isNarrow = width < NARROW
  const left = isNarrow ? 118 : 350
  const head = isNarrow ? 26 : 0
  const shapes = startLanes(rows, columns, {
    left,
    right: width - 30,
    top: 34,
    head,
    laneHeight: head + (STRIP + 4) * rows.length,
  })
  const { scale } = rows[0]!
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`${rows[0]!.label} by start condition`}
    >
      <text x={14} y={18} fontSize="12" className="soft">
        {`readings, median, interval of each start${shapes.isLog ? '; log scale' : ''}`}
      </text>
      {shapes.lanes.map((lane, i) => (
        <g key={lane.laneNo}>
          <line x1={0} x2={width} y1={lane.y} y2={lane.y} stroke={token('rule')} />
          <LaneTitle
            laneNo={lane.laneNo}
            name={names.get(lane.laneNo) ?? ''}
            x={14}
            y={lane.y + (isNarrow ? 18 : 28)}
            room={isNarrow ? width : 210}
            says={lane.times === null || isNarrow ? undefined : `cold ${lane.times.toFixed(1)} times as long`}
          />
          {lane.strips.map((strip) => (
            <g key={strip.start}>
              <text x={left - 14} y={strip.middle - 2} fontSize="12" textAnchor="end" className="soft">
                {strip.start}
              </text>
              <text x={left - 14} y={strip.middle + 12} fontSize="12.5" textAnchor="end" className="strong">
                {strip.median === null ? 'no readings' : amount(strip.median, scale)}
              </text>
              <LaneStrip lane={strip.shape} middle={strip.middle + 2} reach={STRIP * 0.42} />
            </g>
          ))}
          {i === shapes.lanes.length - 1 && (
            <line x1={0} x2={width} y1={shapes.bottom} y2={shapes.bottom} stroke={token('rule')} />
          )}
        </g>
      ))}
      {rows[0]!.good_end !== 'none' && (
        <Pennant x={left - 6} top={32} bottom={isNarrow ? 48 : shapes.bottom} side="left" />
      )}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit={scale.label} />
    </Picture>
  )
}
