import { LaneMark } from './LaneMark'

const COLUMN = 260
const LINE = 22

/** How much height the names of so many lanes take. */
export const legendHeight = (lanes: number, width: number) => Math.ceil(lanes / perLine(width)) * LINE

const perLine = (width: number) => Math.max(1, Math.floor(width / COLUMN))

type Props = { lanes: readonly number[]; names: ReadonlyMap<number, string>; y: number; width: number }

/** Each lane's mark with its name, for pictures that have no lane of its own for each. */
export function Legend({ lanes, names, y, width }: Props) {
  return (
    <g>
      {lanes.map((laneNo, i) => {
        const name = names.get(laneNo) ?? ''
        return (
          <g
            key={laneNo}
            transform={`translate(${20 + (i % perLine(width)) * COLUMN} ${y + Math.floor(i / perLine(width)) * LINE})`}
          >
            <title>{name}</title>
            <LaneMark laneNo={laneNo} x={0} y={-4} r={5} />
            <text x={12} y={0} fontSize="13">
              {name.length > 32 ? `${name.slice(0, 31)}…` : name}
            </text>
          </g>
        )
      })}
    </g>
  )
}
