import type { LaneRamps } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { rampShapes } from './layout/ramp'
import { AxisMarks } from './marks/AxisMarks'
import { Cross } from './marks/Cross'
import { LaneMark } from './marks/LaneMark'
import { Picture } from './marks/Picture'

type Props = {
  lanes: readonly LaneRamps[]
  names: ReadonlyMap<number, string>
  /** What was opened: pages, or steps where other things were. */
  noun: string
  width: number
}

const HEIGHT = 400
/** Below this there is no room for why a ramp ended; the table below tells it. */
const NARROW = 620

/** Memory in use against pages open, runs over each other, with where and why they ended. */
export function RampPicture({ lanes, names, noun, width }: Props) {
  const appearance = useAppearance()
  const isNarrow = width < NARROW
  const frame = { left: 62, right: width - (isNarrow ? 34 : 150), top: 46, bottom: HEIGHT - 46 }
  const shapes = rampShapes(lanes, frame, noun)
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`Memory in use against ${noun} open`}
    >
      <text x={14} y={18} fontSize="12" className="soft">
        memory in use, MiB; a line a ramp; {isNarrow ? '✕ its end' : '✕ where it ended'}
        {shapes.endedBy !== null && `: ${shapes.endedBy}`}
      </text>
      {shapes.up.ticks.map((tick) => (
        <g key={tick.label}>
          <line x1={frame.left} x2={frame.right} y1={tick.x} y2={tick.x} stroke={token('rule')} />
          <text x={frame.left - 8} y={tick.x + 4} fontSize="12" textAnchor="end" className="soft">
            {tick.label}
          </text>
        </g>
      ))}
      {shapes.memory && (
        <g>
          <line
            x1={frame.left}
            x2={frame.right}
            y1={shapes.memory.y}
            y2={shapes.memory.y}
            stroke={token('ink')}
            strokeWidth={2}
          />
          <text x={frame.left + 4} y={shapes.memory.y - 6} fontSize="13" className="strong">
            {shapes.memory.label}: all there is
          </text>
        </g>
      )}
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo}>
          {lane.curves.map((curve) => (
            <path
              key={curve.runId}
              d={curve.path}
              fill="none"
              stroke={appearance(lane.laneNo).colour}
              strokeWidth={1.8}
              opacity={0.6}
            >
              <title>{`${names.get(lane.laneNo)}: ${curve.says}`}</title>
            </path>
          ))}
        </g>
      ))}
      {shapes.lanes.map(
        (lane) =>
          lane.end && (
            <g key={`end of ${lane.laneNo}`}>
              {lane.end.isAtLeast ? (
                <path d={`M${lane.end.x + 4},${lane.end.y - 5}l8,5l-8,5Z`} fill={token('ink')} />
              ) : (
                <Cross x={lane.end.x} y={lane.end.y} />
              )}
              <LaneMark laneNo={lane.laneNo} x={lane.end.x + 16} y={lane.end.y} r={5} />
              {!isNarrow && lane.end.says && (
                <text
                  x={lane.end.x + 26}
                  y={lane.end.y + 4}
                  fontSize="12.5"
                  className="soft"
                  paintOrder="stroke"
                  stroke={token('sheet')}
                  strokeWidth={5}
                >
                  {lane.end.says}
                </text>
              )}
            </g>
          ),
      )}
      <AxisMarks axis={shapes.across} y={shapes.bottom} unit={noun} />
    </Picture>
  )
}
