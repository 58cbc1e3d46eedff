import type { Schemas } from '@/api/types'
import { cut } from '@/format/cut'
import { token } from '@/theme/tokens'

import { totalsShape } from './layout/totals'
import { AxisMarks } from './marks/AxisMarks'
import { Pennant } from './marks/Pennant'
import { Picture } from './marks/Picture'

type Props = { page: Schemas['TotalsPage']; width: number }

const LETTER = 7.4
const SMALL_LETTER = 6.5

/** The index of every system, the best on top; more is better. */
export function TotalsPicture({ page, width }: Props) {
  const shape = totalsShape(page, width)
  return (
    <Picture
      viewBox={`0 0 ${width} ${shape.height}`}
      height={shape.height}
      role="img"
      aria-label={`Index, ${page.reference} is 100`}
    >
      <line
        x1={shape.reference}
        x2={shape.reference}
        y1={shape.top - 8}
        y2={shape.bottom}
        stroke={token('soft')}
        strokeDasharray="2 4"
        strokeWidth={1.6}
      />
      <text x={shape.reference} y={14} fontSize="12" textAnchor="middle" className="soft">
        {cut(`${page.reference} = 100`, 2 * Math.min(shape.reference, width - shape.reference), SMALL_LETTER)}
      </text>
      {shape.lanes.map((lane) => (
        <g key={lane.line.system}>
          <title>{`${lane.line.system}: ${lane.says}`}</title>
          <line x1={0} x2={width} y1={lane.y + 20} y2={lane.y + 20} stroke={token('rule')} />
          <text x={14} y={lane.y - 2} fontSize="13.5" className={lane.x === null ? 'soft' : 'strong'}>
            {cut(lane.line.system, shape.left - 24, LETTER)}
          </text>
          <text x={14} y={lane.y + 13} fontSize="12" className="soft">
            {cut(lane.says, (lane.x === null ? width : shape.left) - 24, SMALL_LETTER)}
          </text>
          {lane.low !== null && lane.high !== null && (
            <rect
              x={lane.low}
              y={lane.y - 11}
              width={Math.max(lane.high - lane.low, 2)}
              height={22}
              fill={token('slate')}
              opacity={0.28}
            />
          )}
          {lane.x !== null && (
            <rect x={lane.x - 2.5} y={lane.y - 15} width={5} height={30} rx={2} fill={token('slate')} />
          )}
          {lane.x !== null && (
            <text x={shape.figureX} y={lane.y + 5} fontSize="16" className="strong">
              {lane.figure}
            </text>
          )}
        </g>
      ))}
      <Pennant x={shape.figureX - 14} top={shape.top} bottom={shape.bottom} side="right" />
      <AxisMarks axis={shape.axis} y={shape.bottom} unit="index" />
    </Picture>
  )
}
