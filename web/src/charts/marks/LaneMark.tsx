import { styled } from '@mui/material/styles'

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
      {...(hollow ? { fill: 'none', stroke: colour, strokeWidth: 1.6 } : { fill: colour })}
    />
  )
}

const Sign = styled('svg')({ verticalAlign: '-2px', marginRight: 5 })

/** The same inside a line of text. */
export const LaneSign = ({ laneNo }: { laneNo: number }) => (
  <Sign width="13" height="13" viewBox="-7 -7 14 14" aria-hidden="true">
    <LaneMark laneNo={laneNo} x={0} y={0} r={5} />
  </Sign>
)
