import type { Schemas } from '@/api/types'
import { cut } from '@/format/cut'
import { token } from '@/theme/tokens'

import { incidentsShape } from './layout/incidents'
import { placeSaid } from './layout/standings'
import { AxisMarks } from './marks/AxisMarks'
import { Pennant } from './marks/Pennant'
import { Picture } from './marks/Picture'

/** Incidents per 100 hours with their intervals, the fewest on top. */
export function IncidentsPicture({ page, width }: { page: Schemas['IncidentsPage']; width: number }) {
  const shape = incidentsShape(page, width)
  return (
    <Picture
      viewBox={`0 0 ${width} ${shape.height}`}
      height={shape.height}
      role="img"
      aria-label="Incidents per 100 hours in use"
    >
      <text x={shape.placeX} y={14} fontSize="12" className="soft">
        place
      </text>
      {shape.lanes.map((lane) => (
        <g key={lane.line.system_id}>
          <title>{`${lane.line.system}: ${lane.says}`}</title>
          <line x1={0} x2={width} y1={lane.y + 20} y2={lane.y + 20} stroke={token('rule')} />
          <text x={14} y={lane.y - 2} fontSize="13.5" className="strong">
            {cut(lane.line.system, shape.left - 24, 7.4)}
          </text>
          <text x={14} y={lane.y + 13} fontSize="12" className="soft">
            {cut(lane.says, shape.left - 24, 6.5)}
          </text>
          <rect
            x={lane.low}
            y={lane.y - 11}
            width={Math.max(lane.high - lane.low, 2)}
            height={22}
            fill={token('slate')}
            opacity={0.28}
          />
          <rect x={lane.x - 2.5} y={lane.y - 15} width={5} height={30} rx={2} fill={token('slate')} />
          <text x={shape.placeX} y={lane.y + 5} fontSize="13.5" className="strong">
            {placeSaid(lane.line.place!)}
          </text>
        </g>
      ))}
      <Pennant x={shape.left} top={shape.top} bottom={shape.bottom} side="left" />
      <AxisMarks axis={shape.axis} y={shape.bottom} unit="per 100 h" />
    </Picture>
  )
}
