import type { Trace } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { MEMORY, settlingLanes, type CurveOf } from './layout/settling'
import { AxisMarks } from './marks/AxisMarks'
import { LaneMark } from './marks/LaneMark'
import { LaneTitle } from './marks/LaneTitle'
import { Picture } from './marks/Picture'

type Props = {
  traces: readonly Trace[]
  names: ReadonlyMap<number, string>
  width: number
  of?: CurveOf
}

const NARROW = 620

/** Curves of runs over each other, lane under lane; a mark stands where each ends. */
export function SettlingPicture({ traces, names, width, of = MEMORY }: Props) {
  const appearance = useAppearance()
  const isNarrow = width < NARROW
  const left = isNarrow ? 52 : Math.min(320, width * 0.36)
  const frame = { left, right: width - 30, top: 28, laneHeight: isNarrow ? 130 : 104 }
  const shapes = settlingLanes(traces, [...names.keys()], frame, of.scale)
  return (
    <Picture viewBox={`0 0 ${width} ${shapes.height}`} role="img" aria-label={of.what}>
      <text x={14} y={16} fontSize="12" className="soft">
        {of.axis}
      </text>
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo}>
          <line
            x1={0}
            x2={width}
            y1={lane.y + frame.laneHeight}
            y2={lane.y + frame.laneHeight}
            stroke={token('rule')}
          />
          <LaneTitle
            laneNo={lane.laneNo}
            name={names.get(lane.laneNo) ?? ''}
            x={14}
            y={lane.y + 18}
            room={isNarrow ? width : left - 40}
          />
          {lane.ticks.map((tick) => (
            <text
              key={tick.label}
              x={left - 8}
              y={tick.y + 4}
              fontSize="12"
              textAnchor="end"
              className="soft"
            >
              {tick.label}
            </text>
          ))}
          {lane.curves.map((curve) => (
            <g key={curve.runId}>
              <title>{`block ${curve.block}`}</title>
              <path
                d={curve.path}
                fill="none"
                stroke={appearance(lane.laneNo).colour}
                strokeWidth={1.6}
                opacity={0.7}
              />
              <LaneMark laneNo={lane.laneNo} x={curve.end.x} y={curve.end.y} r={4} />
            </g>
          ))}
        </g>
      ))}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit="s" />
    </Picture>
  )
}
