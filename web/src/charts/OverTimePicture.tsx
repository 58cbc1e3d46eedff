import { Link } from 'react-router'

import type { Schemas } from '@/api/types'
import { amount, moment } from '@/format/numbers'
import { token } from '@/theme/tokens'

import { overTimeLanes } from './layout/overTime'
import { AxisMarks } from './marks/AxisMarks'
import { Picture } from './marks/Picture'

const PX_PER_LETTER = 7.2

/** One measure study after study, the oldest first; each leads to its findings. */
export function OverTimePicture({ row, width }: { row: Schemas['OverTime']; width: number }) {
  const shape = overTimeLanes(row, width)
  const most = Math.max(8, Math.floor((shape.left - 16) / PX_PER_LETTER))
  return (
    <Picture
      viewBox={`0 0 ${width} ${shape.height}`}
      height={shape.height}
      role="group"
      aria-label={`${row.label}, ${row.other}: study after study`}
    >
      {shape.lanes.map(({ point, y, x, low, high }) => (
        <Link key={point.study} to={`/studies/${point.study}/findings`}>
          <title>{`${point.title}: ${amount(point.median, row.scale)}, ${point.n} readings, ${moment(point.at)}`}</title>
          <rect x={0} y={y - 16} width={width} height={32} fill="transparent" />
          <text x={0} y={y - 1} fontSize="13" className="strong">
            {point.title.length > most ? `${point.title.slice(0, most - 1)}…` : point.title}
          </text>
          <text x={0} y={y + 13} fontSize="12" className="soft">
            {moment(point.at)}
          </text>
          {low !== null && high !== null && (
            <rect
              x={low}
              y={y - 7}
              width={Math.max(high - low, 2)}
              height={14}
              fill={token('slate')}
              opacity={0.28}
            />
          )}
          <rect x={x - 2} y={y - 11} width={4} height={22} rx={1} fill={token('slate')} />
        </Link>
      ))}
      <AxisMarks axis={shape.axis} y={shape.bottom} unit={row.scale.label} />
    </Picture>
  )
}
