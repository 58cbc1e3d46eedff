import type { FindingRow, ReadingColumns } from '@/api/types'
import { amount } from '@/format/numbers'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { orderLanes, type OrderLane } from './layout/orderLanes'
import type { OrderMarks } from './layout/orderMarks'
import { Cross } from './marks/Cross'
import { LaneMark } from './marks/LaneMark'
import { LaneTitle } from './marks/LaneTitle'
import { Picture } from './marks/Picture'

type Props = {
  row: FindingRow
  columns: ReadingColumns
  names: ReadonlyMap<number, string>
  noted: OrderMarks
  width: number
}

const NARROW = 620

/** Readings block by block: a drift, a slow first run, a break in the conditions show here. */
export function OrderPicture({ row, columns, names, noted, width }: Props) {
  const appearance = useAppearance()
  const left = width < NARROW ? 16 : Math.min(240, width * 0.28)
  const frame = {
    left,
    right: width - 24,
    top: 26,
    laneHeight: width < NARROW ? 92 : row.lanes.length > 6 ? 54 : 72,
  }
  const shapes = orderLanes(row, columns, frame, noted)
  const isNoted = (pick: (lane: OrderLane) => unknown[]) => shapes.lanes.some((lane) => pick(lane).length)
  const said = [
    'in the order of the runs: a longer one stands higher, all lanes on one scale',
    isNoted((lane) => lane.failed) && '✕ failed',
    isNoted((lane) => lane.breaks) && 'dashed: a condition changed',
    isNoted((lane) => lane.disturbed) && '▾ disturbed',
  ]
    .filter(Boolean)
    .join('; ')
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`${row.label} in the order of the runs`}
    >
      <text x={left} y={16} fontSize="12" className="soft">
        {said}
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
          {width >= NARROW && (
            <LaneTitle
              laneNo={lane.laneNo}
              name={names.get(lane.laneNo) ?? ''}
              x={14}
              y={lane.y + 26}
              room={left}
            />
          )}
          {lane.median !== null && (
            <line
              x1={left}
              x2={frame.right}
              y1={lane.median}
              y2={lane.median}
              stroke={appearance(lane.laneNo).colour}
              strokeDasharray="2 4"
            />
          )}
          {lane.breaks.map((one) => (
            <g key={one.says}>
              <title>{one.says}</title>
              <line
                x1={one.x}
                x2={one.x}
                y1={lane.y + 4}
                y2={lane.y + frame.laneHeight - 4}
                stroke={token('ochre')}
                strokeWidth={2}
                strokeDasharray="4 3"
              />
            </g>
          ))}
          {lane.disturbed.map((one) => (
            <g key={one.says} data-testid="disturbed">
              <title>{one.says}</title>
              <line
                x1={one.x}
                x2={one.x}
                y1={lane.y + 6}
                y2={lane.y + frame.laneHeight - 4}
                stroke={token('ochre')}
                strokeWidth={1.5}
                strokeDasharray="2 3"
              />
              <path d={`M${one.x - 5},${lane.y + 3}h10l-5,7z`} fill={token('ochre')} />
            </g>
          ))}
          {lane.failed.map((one) => (
            <g key={one.says}>
              <title>{one.says}</title>
              <Cross x={one.x} y={one.y} r={4} />
            </g>
          ))}
          {lane.marks.map((mark) => (
            <g key={mark.id}>
              <title>{`block ${mark.block}: ${amount(mark.value, row.scale)}${mark.isAside ? ', set aside' : ''}`}</title>
              <LaneMark
                laneNo={lane.laneNo}
                x={mark.x}
                y={mark.y}
                r={shapes.lanes.length > 6 ? 3 : 4}
                hollow={mark.isAside}
              />
            </g>
          ))}
        </g>
      ))}
      {shapes.blocks.map((block) => (
        <text
          key={block.label}
          x={block.x}
          y={shapes.bottom + 20}
          fontSize="12"
          textAnchor="middle"
          className="soft"
        >
          {block.label}
        </text>
      ))}
      <text x={left - 8} y={shapes.bottom + 20} fontSize="12" textAnchor="end" className="soft">
        {width < NARROW ? '' : 'block'}
      </text>
    </Picture>
  )
}
