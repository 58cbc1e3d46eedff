import { LaneMark } from './LaneMark'

type Props = { laneNo: number; name: string; x: number; y: number; room: number; says?: string }

/** A lane's name with its mark; too long a name is cut, and whole in its title. */
export function LaneTitle({ laneNo, name, x, y, room, says }: Props) {
  const most = Math.max(6, Math.floor((room - x - 30) / 7.2))
  return (
    <g>
      <title>{name}</title>
      <LaneMark laneNo={laneNo} x={x + 6} y={y - 4} r={5} />
      <text x={x + 18} y={y} fontSize="13.5" className="strong">
        {name.length > most ? `${name.slice(0, most - 1)}…` : name}
      </text>
      {says && (
        <text x={x + 18} y={y + 18} fontSize="12.5" className="soft">
          {says}
        </text>
      )}
    </g>
  )
}
