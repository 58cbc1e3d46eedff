import { useId } from 'react'

import type { BootParts } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { bootPartLanes } from './layout/bootParts'
import { AxisMarks } from './marks/AxisMarks'
import { FoldedText } from './marks/FoldedText'
import { Hatch } from './marks/Hatch'
import { LaneTitle } from './marks/LaneTitle'
import { Picture } from './marks/Picture'

type Props = { found: BootParts; names: ReadonlyMap<number, string>; width: number; isLow?: boolean }

const NARROW = 620
const SHADES = [0.95, 0.5, 0.25, 0.85, 0.4, 0.15]
/** Shades so strong that figures on them are written in the colour of the sheet. */
const DARK = 0.8

/** Each lane's boot as a chain of parts; a thin bar at each boundary is its interval. */
export function BootPartsPicture({ found, names, width, isLow = false }: Props) {
  const appearance = useAppearance()
  const hatch = useId()
  const isNarrow = width < NARROW
  const left = isNarrow ? 16 : Math.min(250, width * 0.28)
  const frame = { left, right: width - 92, top: 54, laneHeight: isNarrow ? 84 : isLow ? 46 : 64 }
  const shapes = bootPartLanes(found, frame)
  return (
    <Picture
      viewBox={`0 0 ${width} ${shapes.height}`}
      role="img"
      aria-label={`Parts of the boot on ${found.machine}`}
    >
      <Hatch id={hatch} />
      <FoldedText
        text={`medians: ${shapes.legend.map((part) => `${part.label.toLowerCase()} (${part.method.replaceAll('-', ' ')})`).join(', then ')}${shapes.lanes.some((lane) => lane.waited > 0) ? '; hatched: the machine waits' : ''}`}
        x={14}
        y={16}
        most={Math.floor(width / 6.2)}
      />
      {shapes.lanes.map((lane) => {
        const { colour } = appearance(lane.laneNo)
        const y = lane.y + (isNarrow ? 36 : isLow ? 8 : 18)
        const last = lane.parts.at(-1)
        return (
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
              y={lane.y + (isLow ? 18 : 26)}
              room={isNarrow ? width : left}
              says={isNarrow ? undefined : `${lane.runs} boots`}
            />
            {lane.parts.map((part) => (
              <g key={part.metric}>
                <title>{`${part.label}: ${part.seconds.toFixed(2)} s`}</title>
                <rect
                  x={part.from}
                  width={Math.max(0.5, part.to - part.from)}
                  y={y}
                  height={28}
                  {...(part.isWait
                    ? { fill: `url(#${hatch})`, stroke: token('soft'), strokeDasharray: '3 3' }
                    : {
                        fill: colour,
                        opacity: SHADES[part.place % SHADES.length],
                        stroke: token('sheet'),
                        strokeWidth: 1.5,
                      })}
                />
                {part.to - part.from > 34 && (
                  <text
                    x={(part.from + part.to) / 2}
                    y={y + 19}
                    fontSize="12"
                    textAnchor="middle"
                    className="strong"
                    fill={
                      !part.isWait && SHADES[part.place % SHADES.length]! > DARK ? token('sheet') : undefined
                    }
                  >
                    {`${part.seconds.toFixed(1)} s`}
                  </text>
                )}
                {lane === shapes.lanes[0] && !isNarrow && part.to - part.from > part.label.length * 6.2 && (
                  <text
                    x={(part.from + part.to) / 2}
                    y={y - 6}
                    fontSize="12"
                    textAnchor="middle"
                    className="soft"
                  >
                    {part.label}
                  </text>
                )}
                {part.end && (
                  <rect
                    x={part.end[0]}
                    width={Math.max(1, part.end[1] - part.end[0])}
                    y={y + 31}
                    height={4}
                    fill={colour}
                  />
                )}
              </g>
            ))}
            {last && (
              <text x={last.to + 8} y={y + 19} fontSize="14" className="strong">
                {`${lane.total.toFixed(1)} s`}
                {lane.waited > 0 && (
                  <tspan
                    x={last.to + 8}
                    dy={15}
                    fontSize="11.5"
                    fontWeight="400"
                    fill={token('soft')}
                  >{`+ ${lane.waited.toFixed(1)} s wait`}</tspan>
                )}
              </text>
            )}
          </g>
        )
      })}
      <AxisMarks axis={shapes.axis} y={shapes.bottom} unit="s" />
    </Picture>
  )
}
