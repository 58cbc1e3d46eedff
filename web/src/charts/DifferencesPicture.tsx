import { useId } from 'react'

import type { FindingRow } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { differenceLanes, type DifferenceShape } from './layout/differenceLanes'
import type { Frame } from './layout/readingLanes'
import { AxisMarks } from './marks/AxisMarks'
import { Hatch } from './marks/Hatch'
import { LaneMark } from './marks/LaneMark'
import { Picture } from './marks/Picture'

type Props = {
  row: FindingRow
  names: ReadonlyMap<number, string>
  baseline: number
  width: number
  frame: Frame
  withNames?: boolean
}

/** Each lane's difference against the baseline with its interval, over the strip that does not matter. */
export function DifferencesPicture({ row, names, baseline, width, frame, withNames = false }: Props) {
  const shapes = differenceLanes(row, baseline, frame)
  const hatch = useId()
  const top = frame.top - 2
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`Differences against the baseline: ${row.label}`}
    >
      <Hatch id={hatch} />
      <text x={frame.left - 10} y={frame.top - 14} fontSize="12" className="soft">
        typical difference, run against run
      </text>
      {!withNames && <line x1={0.5} x2={0.5} y1={top} y2={shapes.bottom} stroke={token('rule')} />}
      {shapes.strip && (
        <rect
          x={shapes.strip[0]}
          width={Math.max(2, shapes.strip[1] - shapes.strip[0])}
          y={top}
          height={shapes.bottom - top}
          fill={`url(#${hatch})`}
        />
      )}
      <line
        x1={shapes.zero}
        x2={shapes.zero}
        y1={top}
        y2={shapes.bottom}
        stroke={token('soft')}
        strokeDasharray="3 3"
      />
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo}>
          <line
            x1={0}
            x2={width}
            y1={lane.y + frame.laneHeight}
            y2={lane.y + frame.laneHeight}
            stroke={token('rule')}
          />
          {withNames && (
            <text x={14} y={lane.y + 17} fontSize="12.5" className="strong">
              {names.get(lane.laneNo)}
            </text>
          )}
          <Difference
            lane={lane}
            isBaseline={lane.laneNo === baseline}
            y={lane.y + (withNames ? 50 : frame.laneHeight / 2 + 6)}
            right={width}
          />
        </g>
      ))}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit={row.scale.label} />
      {shapes.strip && (
        <text x={frame.left - 10} y={shapes.bottom + 42} fontSize="12" className="soft">
          hatched: too small to matter ({row.margin_text.replace(', whichever is wider', '')})
        </text>
      )}
    </Picture>
  )
}

type DifferenceProps = { lane: DifferenceShape; isBaseline: boolean; y: number; right: number }

function Difference({ lane, isBaseline, y, right }: DifferenceProps) {
  const { colour } = useAppearance()(lane.laneNo)
  if (isBaseline || !lane.pair) {
    return (
      <text x={lane.x} y={y + 3} fontSize="12" textAnchor="middle" className={isBaseline ? 'strong' : 'soft'}>
        {isBaseline ? 'baseline' : 'no readings'}
      </text>
    )
  }
  return (
    <g>
      <title>{lane.pair.sentence}</title>
      <line
        x1={lane.low}
        x2={Math.max(lane.high, lane.low + 0.1)}
        y1={y}
        y2={y}
        stroke={colour}
        strokeWidth={5}
        strokeLinecap="round"
      />
      <LaneMark laneNo={lane.laneNo} x={lane.x} y={y} r={5.5} />
      <text x={lane.x} y={y - 12} fontSize="12.5" textAnchor="middle" className="strong">
        {lane.label}
      </text>
      <text
        x={right - 8}
        y={y + 4}
        fontSize="12.5"
        textAnchor="end"
        className={lane.pair.verdict === 'undecided' ? 'soft' : 'strong'}
      >
        {lane.pair.verdict_text}
      </text>
    </g>
  )
}
