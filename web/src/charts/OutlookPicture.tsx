import type { Schemas } from '@/api/types'
import { token } from '@/theme/tokens'

import { outlookLanes } from './layout/outlook'
import { Hatch } from './marks/Hatch'
import { Picture } from './marks/Picture'

type Props = { lines: readonly Schemas['OutlookLine'][]; said: readonly string[]; width: number }

/** Room for what is said above both ends. */
const BOTH = 430

/** For each measure the differences that are too small to matter, and those that will be told apart. */
export function OutlookPicture({ lines, said, width }: Props) {
  const shape = outlookLanes(lines, width)
  const { left } = shape
  return (
    <Picture
      viewBox={`0 0 ${width} ${shape.height}`}
      height={shape.height}
      role="img"
      aria-label="What the plan will tell apart"
    >
      <Hatch id="outlook-margin" />
      <text x={left} y={14} fontSize="12" className="soft">
        {width - left < BOTH
          ? 'hatched: too small to matter; bar: told'
          : 'no difference · hatched: too small to matter'}
      </text>
      {width - left >= BOTH && (
        <text x={width - 8} y={14} fontSize="12" textAnchor="end" className="soft">
          told apart 9 times in 10
        </text>
      )}
      {shape.lanes.map(({ line, nameY, y, margin, told }, place) => (
        <g key={`${line.found.machine} ${line.label}`}>
          <text x={0} y={nameY} fontSize="13.5" className="strong">
            {line.label}
          </text>
          <text x={0} y={nameY + 18} fontSize="12.5" className="soft">
            {said[place]}
          </text>
          <line x1={left} x2={left} y1={y - 18} y2={y + 18} stroke={token('soft')} strokeDasharray="3 2" />
          {margin !== null && (
            <rect x={left} y={y - 14} width={margin - left} height={28} fill="url(#outlook-margin)" />
          )}
          {told !== null && (
            <g>
              <line
                x1={told}
                x2={shape.right}
                y1={y}
                y2={y}
                stroke={token(line.found.smallest! <= 2 * line.found.margin! ? 'pine' : 'ochre')}
                strokeWidth={3}
              />
              <rect
                x={told - 3}
                y={y - 15}
                width={6}
                height={30}
                rx={1}
                fill={token(line.found.smallest! <= 2 * line.found.margin! ? 'pine' : 'ochre')}
              />
            </g>
          )}
        </g>
      ))}
    </Picture>
  )
}
