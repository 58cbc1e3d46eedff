import { token } from '@/theme/tokens'

import { useAppearance } from '../appearance'
import type { LaneShape } from '../layout/readingLanes'

type Props = { lane: LaneShape; middle: number; reach?: number }

/** Half the height of a quoted figure's outline. */
const HOLLOW = 6
const BAR_WIDTH = 2.6

/** A lane's readings as ticks, or as bars where they are many, its median as a post, its interval shaded. */
export function LaneStrip({ lane, middle, reach = 21 }: Props) {
  const { colour } = useAppearance()(lane.laneNo)
  const [tick, aside] = [reach * 0.48, reach * 0.24]
  const bars = lane.bars.map(
    ({ x, share }) =>
      `M${x},${(middle - share * reach * 0.85).toFixed(1)}V${(middle + share * reach * 0.85).toFixed(1)}`,
  )
  return (
    <g>
      {lane.interval && (
        <rect
          x={lane.interval[0]}
          width={Math.max(1, lane.interval[1] - lane.interval[0])}
          y={middle - reach * 0.86}
          height={reach * 1.72}
          rx={2}
          fill={colour}
          opacity={0.22}
        />
      )}
      {bars.length > 0 && (
        <path d={bars.join('')} stroke={colour} strokeWidth={BAR_WIDTH} opacity={0.75} fill="none" />
      )}
      {lane.ticks
        .filter((item) => item.reach > 0 && !item.isAside)
        .map((item) => (
          <rect
            key={`to ${item.id}`}
            x={item.x - item.reach}
            width={2 * item.reach}
            y={middle - tick}
            height={2 * tick}
            fill={colour}
            opacity={0.16}
          />
        ))}
      {lane.ticks.map((item) => (
        <line
          key={item.id}
          x1={item.x}
          x2={item.x}
          y1={middle - (item.isAside ? aside : tick)}
          y2={middle + (item.isAside ? aside : tick)}
          stroke={colour}
          strokeWidth={1.6}
          opacity={0.75}
          strokeDasharray={item.isAside ? '2 2' : undefined}
        />
      ))}
      {lane.quoted.map(({ id, from, to }) => (
        <path
          key={id}
          d={`M${from - HOLLOW},${middle}l${HOLLOW},${-HOLLOW}H${to}l${HOLLOW},${HOLLOW}l${-HOLLOW},${HOLLOW}H${from}Z`}
          fill="none"
          stroke={token('ink')}
          strokeWidth={1.6}
        />
      ))}
      {lane.median !== null && (
        <rect x={lane.median - 2.5} width={5} y={middle - reach} height={reach * 2} rx={2} fill={colour} />
      )}
    </g>
  )
}
