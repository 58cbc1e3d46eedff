import type { ReadingColumns } from '@/api/types'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { slopes, type Change, type Slope } from './layout/slopes'
import { LaneMark } from './marks/LaneMark'
import { Abreast, Picture } from './marks/Picture'

type Props = {
  changes: readonly Change[]
  columns: ReadingColumns
  before: string
  after: string
  width: number
}

const NARROW = 620
const HEIGHT = 300

/** Before and after as slopes: amounts beside shares, block by block behind the medians. */
export function SlopesPicture(props: Props) {
  const { changes, width } = props
  const isNarrow = width < NARROW
  const each = isNarrow ? width : Math.floor(width / 2)
  const unit = changes[0]?.row.scale.label || 'count'
  return (
    <Abreast widths={isNarrow ? [] : [each, each]}>
      <Panel
        {...props}
        width={each}
        inShares={false}
        head={`amounts, ${unit}`}
        note="thin: block by block; thick: medians with intervals"
      />
      <Panel
        {...props}
        width={each}
        inShares
        head="shares of before, %"
        note="figures: typical difference, run against run"
      />
    </Abreast>
  )
}

function Panel({
  changes,
  columns,
  before,
  after,
  width,
  inShares,
  head,
  note,
}: Props & { inShares: boolean; head: string; note: string }) {
  const shapes = slopes(changes, columns, inShares, { top: 52, height: HEIGHT })
  const [left, right] = [70, width - 180]
  return (
    <Picture viewBox={`0 0 ${width} ${shapes.height}`} role="img" aria-label={`Before and after, ${head}`}>
      <text x={14} y={18} fontSize="12" className="soft">
        {head}
      </text>
      <text x={left} y={38} fontSize="13" textAnchor="middle" className="strong">
        {before}
      </text>
      <text x={right} y={38} fontSize="13" textAnchor="middle" className="strong">
        {after}
      </text>
      {[left, right].map((x) => (
        <line key={x} x1={x} x2={x} y1={46} y2={shapes.bottom + 6} stroke={token('rule')} strokeWidth={2} />
      ))}
      {shapes.axis.ticks.map((item) => (
        <text key={item.label} x={left - 14} y={item.x + 4} fontSize="12" textAnchor="end" className="soft">
          {item.label}
        </text>
      ))}
      {shapes.slopes.map((slope) => (
        <Line key={slope.key} slope={slope} left={left} right={right} />
      ))}
      <text x={14} y={shapes.bottom + 28} fontSize="12" className="soft">
        {note}
      </text>
    </Picture>
  )
}

function Line({ slope, left, right }: { slope: Slope; left: number; right: number }) {
  const { colour } = useAppearance()(slope.laneNo)
  const bar = (x: number, limits: readonly [number, number] | null) =>
    limits && (
      <line x1={x} x2={x} y1={limits[0]} y2={limits[1]} stroke={colour} strokeWidth={6} opacity={0.3} />
    )
  return (
    <g>
      {slope.blocks.map((one, i) => (
        <line
          key={i}
          x1={left}
          x2={right}
          y1={one.from}
          y2={one.to}
          stroke={colour}
          strokeWidth={0.8}
          opacity={0.3}
        />
      ))}
      {bar(left, slope.fromLimits)}
      {bar(right, slope.toLimits)}
      <line x1={left} x2={right} y1={slope.from} y2={slope.to} stroke={colour} strokeWidth={3} />
      <LaneMark laneNo={slope.laneNo} x={left} y={slope.from} r={5} />
      <LaneMark laneNo={slope.laneNo} x={right} y={slope.to} r={6} />
      <text x={right + 14} y={slope.labelY} fontSize="12.5" className="strong">
        {slope.says}
      </text>
      <text x={right + 14} y={slope.labelY + 14} fontSize="12" className="soft">
        {slope.label.length > 26 ? `${slope.label.slice(0, 25)}…` : slope.label}
      </text>
    </g>
  )
}
