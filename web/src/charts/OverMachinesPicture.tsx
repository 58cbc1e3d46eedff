import type { MachinesRow, PairOverMachines } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { overMachines } from './layout/overMachines'
import { AxisMarks } from './marks/AxisMarks'
import { FoldedText } from './marks/FoldedText'
import { LaneMark } from './marks/LaneMark'
import { LaneTitle } from './marks/LaneTitle'
import { Pennant } from './marks/Pennant'
import { Picture } from './marks/Picture'

type Props = {
  row: MachinesRow
  pairs: readonly PairOverMachines[]
  baseline: string
  /** A lane of each entrant, by its name: it gives colour and mark. */
  laneOf: (name: string) => number
  width: number
}

const NARROW = 620

/** Each contender as a share of the baseline, machine by machine, and together where they agree. */
export function OverMachinesPicture({ row, pairs, baseline, laneOf, width }: Props) {
  const appearance = useAppearance()
  const isNarrow = width < NARROW
  const left = isNarrow ? 26 : 250
  const right = width - (isNarrow ? 26 : 150)
  const frame = isNarrow
    ? { left, right, top: 66, head: 42, lineHeight: 38 }
    : { left, right, top: 40, head: 26, lineHeight: 26 }
  const shapes = overMachines(pairs, baseline, frame)
  const barAt = isNarrow ? 25 : 13
  const isGoodLow = row.good_end === 'low'
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`${row.label} against ${baseline} on each machine`}
    >
      <FoldedText
        text={`share of ${baseline}, run against run, with interval; the ring: together, from the medians${row.good_end === 'none' ? '' : '; ⚑ good end'}`}
        x={14}
        y={18}
        most={Math.floor(width / 6.3)}
      />
      <line
        x1={shapes.one}
        x2={shapes.one}
        y1={frame.top - 8}
        y2={shapes.bottom}
        stroke={token('soft')}
        strokeDasharray="3 3"
      />
      {row.good_end !== 'none' && (
        <Pennant
          x={isGoodLow ? left - (isNarrow ? 20 : 8) : right + (isNarrow ? 18 : 8)}
          top={frame.top - 8}
          bottom={shapes.bottom}
          side={isGoodLow ? 'left' : 'right'}
        />
      )}
      {shapes.groups.map((group) => {
        const laneNo = laneOf(group.name)
        const { colour } = appearance(laneNo)
        return (
          <g key={group.name}>
            <line x1={0} x2={width} y1={group.y} y2={group.y} stroke={token('rule')} />
            <LaneTitle
              laneNo={laneNo}
              name={group.name}
              x={14}
              y={group.y + 19}
              room={isNarrow ? width : left + 60}
            />
            {group.disagree && (
              <text
                x={isNarrow ? 32 : width - 10}
                y={group.y + (isNarrow ? 36 : 19)}
                fontSize="12.5"
                textAnchor={isNarrow ? 'start' : 'end'}
                className="strong"
                fill={token('rust')}
              >
                the machines disagree: no mean
              </text>
            )}
            {group.lines.map((line) => (
              <g key={line.label}>
                <text
                  x={isNarrow ? 32 : left - 20}
                  y={line.y + (isNarrow ? 15 : 17)}
                  fontSize="12.5"
                  textAnchor={isNarrow ? 'start' : 'end'}
                  className={line.isTogether ? 'strong' : 'soft'}
                >
                  {line.label}
                </text>
                <line
                  x1={line.low}
                  x2={Math.max(line.high, line.low + 0.1)}
                  y1={line.y + barAt}
                  y2={line.y + barAt}
                  stroke={colour}
                  strokeWidth={line.isTogether ? 8 : 5}
                  strokeLinecap="round"
                  opacity={line.isTogether ? 0.5 : 1}
                />
                {line.isTogether ? (
                  <circle
                    cx={line.x}
                    cy={line.y + barAt}
                    r={6}
                    fill={token('sheet')}
                    stroke={colour}
                    strokeWidth={3}
                  />
                ) : (
                  <LaneMark laneNo={laneNo} x={line.x} y={line.y + barAt} r={5} />
                )}
                <text
                  x={width - 10}
                  y={line.y + (isNarrow ? 15 : 17)}
                  fontSize="12.5"
                  textAnchor="end"
                  className={line.isTogether ? 'strong' : ''}
                >
                  {line.says}
                </text>
              </g>
            ))}
          </g>
        )
      })}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit="%" />
    </Picture>
  )
}
