import { markPath } from '@/theme/lanes'

import { useAppearance } from '../appearance'

type Props = { laneNo: number; x: number; y: number; r?: number; hollow?: boolean }

/** A lane's own mark at a place of a picture. */
export function LaneMark({ laneNo, x, y, r = 5, hollow = false }: Props) {
  const { colour, mark } = useAppearance()(laneNo)
  return (
    <path
      d={markPath(mark, r)}
      transform={`translate(${x} ${y})`}
      style={hollow ? { fill: 'none', stroke: colour, strokeWidth: 1.6 } : { fill: colour }}
    />
  )
}

/** The same inside a line of text. */
export const LaneSign = ({ laneNo }: { laneNo: number }) => (
  <svg width="13" height="13" viewBox="-7 -7 14 14" aria-hidden="true" style={{ verticalAlign: '-2px', marginRight: 5 }}>
    <LaneMark laneNo={laneNo} x={0} y={0} r={5} />
  </svg>
)
