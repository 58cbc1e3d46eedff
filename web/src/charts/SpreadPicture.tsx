import type { FindingRow, ReadingColumns } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { spread } from './layout/spread'
import { AxisMarks } from './marks/AxisMarks'
import { LaneMark } from './marks/LaneMark'
import { Legend, legendHeight } from './marks/Legend'
import { Picture } from './marks/Picture'

type Props = { row: FindingRow; columns: ReadingColumns; names: ReadonlyMap<number, string>; width: number }

/** How many runs of a lane took at most so long: two humps and tails show as steps and slopes. */
export function SpreadPicture({ row, columns, names, width }: Props) {
  const appearance = useAppearance()
  const keyHeight = legendHeight(row.lanes.length, width)
  const shapes = spread(row, columns, { left: 62, right: width - 30, top: 34 + keyHeight, height: 250 })
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`${row.label}: share of runs up to each value`}
    >
      <text x={14} y={16} fontSize="12" className="soft">
        share of the runs that count, up to each value; the mark stands at the median
      </text>
      <Legend lanes={shapes.curves.map((curve) => curve.laneNo)} names={names} y={36} width={width} />
      {shapes.shares.map((share) => (
        <g key={share.label}>
          <line x1={62} x2={width - 30} y1={share.y} y2={share.y} stroke={token('rule')} />
          <text x={54} y={share.y + 4} fontSize="12" textAnchor="end" className="soft">
            {share.label}
          </text>
        </g>
      ))}
      {shapes.curves.map((curve) => (
        <g key={curve.laneNo}>
          <path d={curve.path} fill="none" stroke={appearance(curve.laneNo).colour} strokeWidth={2} />
          {curve.medianAt && (
            <LaneMark laneNo={curve.laneNo} x={curve.medianAt.x} y={curve.medianAt.y} r={6} />
          )}
        </g>
      ))}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit={row.scale.label} />
    </Picture>
  )
}
