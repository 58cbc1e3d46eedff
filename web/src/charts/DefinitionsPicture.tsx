import type { FindingRow } from '@/api/types'
import { amount } from '@/format/numbers'
import { token } from '@/theme/tokens'

import { definitions } from './layout/definitions'
import { AxisMarks } from './marks/AxisMarks'
import { FoldedText } from './marks/FoldedText'
import { LaneMark } from './marks/LaneMark'
import { Legend, legendHeight } from './marks/Legend'
import { Picture } from './marks/Picture'

type Props = {
  rows: readonly FindingRow[]
  machine: string
  names: ReadonlyMap<number, string>
  width: number
}

const NARROW = 620

/** One instant under every definition of memory in use: why two tools disagree. */
export function DefinitionsPicture({ rows, machine, names, width }: Props) {
  const isNarrow = width < NARROW
  const frame = {
    left: isNarrow ? 24 : 330,
    right: width - (isNarrow ? 40 : 130),
    top: 32 + legendHeight(names.size, width),
    lineHeight: isNarrow ? 94 : 62,
  }
  const shapes = definitions(rows, machine, frame)
  if (!shapes) return null
  const scale = rows.find((row) => row.key === shapes.lines[0]!.key)!.scale
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`Memory in use under each definition, ${machine}`}
    >
      <FoldedText
        text={`medians at the same settled instant${shapes.hasSwap ? '' : '; swap was not read'}`}
        x={14}
        y={18}
        most={60}
      />
      <Legend lanes={[...names.keys()]} names={names} y={38} width={width} />
      {shapes.lines.map((line) => {
        const middle = line.y + (isNarrow ? 76 : frame.lineHeight / 2)
        return (
          <g key={line.key}>
            <line
              x1={0}
              x2={width}
              y1={line.y + frame.lineHeight}
              y2={line.y + frame.lineHeight}
              stroke={token('rule')}
            />
            <text x={14} y={line.y + 24} fontSize="13.5" className="strong">
              {line.label}
            </text>
            <FoldedText text={line.meaning} x={14} y={line.y + 41} most={isNarrow ? 60 : 52} />
            <line
              x1={frame.left}
              x2={frame.right}
              y1={middle}
              y2={middle}
              stroke={token('rule')}
              strokeDasharray="2 5"
            />
            {!isNarrow && (
              <text x={width - 14} y={middle + 4} fontSize="12.5" textAnchor="end" className="soft">
                {line.says}
              </text>
            )}
            {line.marks.map((mark) => (
              <g key={mark.laneNo}>
                <title>{`${names.get(mark.laneNo)}: ${amount(mark.value, scale)}`}</title>
                <LaneMark laneNo={mark.laneNo} x={mark.x} y={middle} r={6.5} />
              </g>
            ))}
          </g>
        )
      })}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit={scale.label} />
    </Picture>
  )
}
