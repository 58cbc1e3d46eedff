import type { Reliability, RunSheet } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { failureLanes } from './layout/failureLanes'
import { Cross } from './marks/Cross'
import { LaneTitle } from './marks/LaneTitle'
import { Picture } from './marks/Picture'

type Props = { found: Reliability; sheet: RunSheet; names: ReadonlyMap<number, string>; width: number }

const NARROW = 620

/** Which runs failed, lane by lane in their order, and why. */
export function FailuresPicture({ found, sheet, names, width }: Props) {
  const appearance = useAppearance()
  const isNarrow = width < NARROW
  const frame = isNarrow
    ? { left: 14, right: width - 14, top: 30, laneHeight: 84, at: 52 }
    : { left: 270, right: width - 20, top: 30, laneHeight: 62, at: 22 }
  const shapes = failureLanes(found, sheet, frame)
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`Runs that failed: ${found.procedure}`}
    >
      <text x={14} y={16} fontSize="12" className="soft">
        each mark a run, in order; ✕ failed
      </text>
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo}>
          <line x1={0} x2={width} y1={lane.y} y2={lane.y} stroke={token('rule')} />
          <LaneTitle
            laneNo={lane.laneNo}
            name={names.get(lane.laneNo) ?? ''}
            x={14}
            y={lane.y + 24}
            room={isNarrow ? width : frame.left}
            says={isNarrow ? undefined : lane.says}
          />
          {lane.marks.map((mark) => (
            <g key={mark.id}>
              <title>{mark.says}</title>
              {mark.isFailed ? (
                <Cross x={mark.x} y={lane.y + frame.at} r={6} />
              ) : (
                <circle
                  cx={mark.x}
                  cy={lane.y + frame.at}
                  r={shapes.radius}
                  fill={appearance(lane.laneNo).colour}
                  opacity={0.7}
                />
              )}
            </g>
          ))}
          <text
            x={isNarrow ? 14 : frame.left}
            y={lane.y + (isNarrow ? 76 : 50)}
            fontSize="12"
            className="soft"
          >
            {isNarrow ? [lane.says, lane.why].filter(Boolean).join(': ') : lane.why}
          </text>
        </g>
      ))}
    </Picture>
  )
}
