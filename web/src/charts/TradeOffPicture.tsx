import type { FindingRow } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { tradeOff } from './layout/tradeOff'
import { AxisMarks } from './marks/AxisMarks'
import { LaneMark } from './marks/LaneMark'
import { Picture } from './marks/Picture'

type Props = { across: FindingRow; up: FindingRow; names: ReadonlyMap<number, string>; width: number }

const HEIGHT = 380

/** Two measures at once; the line joins those that no other beats in both. */
export function TradeOffPicture({ across, up, names, width }: Props) {
  const appearance = useAppearance()
  const shapes = tradeOff(across, up, { left: 74, right: width - 60, top: 40, bottom: HEIGHT })
  const isRight = (x: number) => x > width * 0.6
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`${up.label} against ${across.label}`}
    >
      <text x={14} y={18} fontSize="12" className="soft">
        {`up: ${up.label.toLowerCase()}, ${up.scale.label}; across: ${across.label.toLowerCase()}, ${across.scale.label}; medians with their intervals`}
      </text>
      {shapes.y.ticks.map((item) => (
        <g key={item.label}>
          <line x1={74} x2={width - 60} y1={item.x} y2={item.x} stroke={token('rule')} />
          <text x={66} y={item.x + 4} fontSize="12" textAnchor="end" className="soft">
            {item.label}
          </text>
        </g>
      ))}
      <path d={shapes.frontier} fill="none" stroke={token('pine')} strokeWidth={2} strokeDasharray="6 4" />
      {shapes.marks.map((mark) => {
        const { colour } = appearance(mark.laneNo)
        return (
          <g key={mark.laneNo}>
            <title>{names.get(mark.laneNo)}</title>
            {mark.across && (
              <line
                x1={mark.across[0]}
                x2={mark.across[1]}
                y1={mark.y}
                y2={mark.y}
                stroke={colour}
                strokeWidth={4}
                opacity={0.35}
              />
            )}
            {mark.up && (
              <line
                x1={mark.x}
                x2={mark.x}
                y1={mark.up[0]}
                y2={mark.up[1]}
                stroke={colour}
                strokeWidth={4}
                opacity={0.35}
              />
            )}
            <LaneMark laneNo={mark.laneNo} x={mark.x} y={mark.y} r={7} />
            <text
              x={mark.x + (isRight(mark.x) ? -12 : 12)}
              y={mark.y + (mark.isBelow ? 20 : -9)}
              fontSize="12.5"
              textAnchor={isRight(mark.x) ? 'end' : 'start'}
              className={mark.isFrontier ? 'strong' : 'soft'}
            >
              {names.get(mark.laneNo)}
            </text>
          </g>
        )
      })}
      <AxisMarks axis={shapes.x} y={shapes.bottom} unit={across.scale.label} />
    </Picture>
  )
}
