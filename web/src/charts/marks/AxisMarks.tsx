import { token } from '@/theme/tokens'

import type { Axis } from '../layout/axis'

type Props = { axis: Axis; y: number; unit: string }

/** Ticks with figures; the unit stands behind the last one. */
export function AxisMarks({ axis, y, unit }: Props) {
  const last = axis.ticks.at(-1)
  return (
    <g>
      {axis.ticks.map((item) => (
        <g key={item.label}>
          <line x1={item.x} x2={item.x} y1={y + 2} y2={y + 8} stroke={token('soft')} />
          <text x={item.x} y={y + 23} fontSize="12" textAnchor="middle" className="soft">
            {item === last ? `${item.label} ${unit}`.trim() : item.label}
          </text>
        </g>
      ))}
    </g>
  )
}
