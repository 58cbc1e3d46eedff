import type { BootUnits } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { unitLanes } from './layout/unitLanes'
import { AxisMarks } from './marks/AxisMarks'
import { Picture } from './marks/Picture'

type Props = { units: BootUnits['units']; laneNo: number; width: number }

const NARROW = 620

/** One boot: what ran when, the long ones named in bold. */
export function BootUnitsPicture({ units, laneNo, width }: Props) {
  const { colour } = useAppearance()(laneNo)
  const left = width < NARROW ? 150 : 220
  const shapes = unitLanes(units, { left, right: width - 60, top: 28, lineHeight: 24 })
  return (
    <Picture viewBox={`0 0 ${width} ${shapes.height}`} role="img" aria-label="What ran when in one boot">
      <text x={14} y={16} fontSize="12" className="soft">
        {`seconds since the kernel began${shapes.leftOut ? `; ${shapes.leftOut} shorter ones left out` : ''}`}
      </text>
      {shapes.units.map((unit) => (
        <g key={unit.name}>
          <text x={14} y={unit.y + 17} fontSize="12.5" className={unit.isLong ? 'strong' : 'soft'}>
            <title>{unit.name}</title>
            {unit.name.length > left / 7 ? `${unit.name.slice(0, left / 7 - 1)}…` : unit.name}
          </text>
          <line
            x1={left}
            x2={width - 60}
            y1={unit.y + 24}
            y2={unit.y + 24}
            stroke={token('rule')}
            opacity={0.5}
          />
          <rect
            x={unit.from}
            y={unit.y + 6}
            width={Math.max(2, unit.to - unit.from)}
            height={14}
            rx={2}
            fill={colour}
            opacity={unit.isLong ? 1 : 0.45}
          />
          {unit.isLong && (
            <text
              x={unit.to + 6}
              y={unit.y + 17}
              fontSize="12.5"
              className="strong"
            >{`${unit.seconds.toFixed(1)} s`}</text>
          )}
        </g>
      ))}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit="s" />
    </Picture>
  )
}
