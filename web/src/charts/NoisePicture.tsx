import { amount, figure, type Scale } from '@/format/numbers'
import { token } from '@/theme/tokens'

import { noiseLanes, type NoiseShare } from './layout/noise'
import { Picture } from './marks/Picture'

type Props = { parts: readonly NoiseShare[]; scale: Scale; width: number }

const NAMES: Record<NoiseShare['source'], string> = {
  blocks: 'Between blocks',
  installs: 'Between installs',
  runs: 'From run to run',
}

/** A part in words: its standard deviation and interval, or that nothing tells it. */
export function partSaid({ sd, interval }: NoiseShare, scale: Scale): string {
  if (sd === null || !interval) return 'not known here'
  return `${amount(sd, scale)} (${figure(interval.low, scale)} to ${figure(interval.high, scale)})`
}

/** How large each part of the noise is: bars with their intervals. */
export function NoisePicture({ parts, scale, width }: Props) {
  const { lanes, left, right, height } = noiseLanes(parts, width)
  const said = parts.map((part) => `${NAMES[part.source]}: ${partSaid(part, scale)}`)
  return (
    <Picture viewBox={`0 0 ${width} ${height}`} height={height} role="img" aria-label={said.join('. ')}>
      {lanes.map(({ part, y, end, low, high }) => (
        <g key={part.source}>
          <text x={0} y={left < 10 ? y - 22 : y + 5} fontSize="14" className="strong">
            {NAMES[part.source]}
          </text>
          {end !== null && (
            <rect x={left} y={y - 9} width={Math.max(end - left, 1)} height={18} fill={token('ochre')} />
          )}
          {low !== null && high !== null && (
            <g stroke={token('ink')} strokeWidth={2}>
              <line x1={low} x2={high} y1={y} y2={y} />
              <line x1={low} x2={low} y1={y - 6} y2={y + 6} />
              <line x1={high} x2={high} y1={y - 6} y2={y + 6} />
            </g>
          )}
          <text
            x={left < 10 ? width : right + 14}
            y={left < 10 ? y - 22 : y + 5}
            textAnchor={left < 10 ? 'end' : 'start'}
            fontSize="14"
            className={end === null ? 'soft' : undefined}
          >
            {partSaid(part, scale)}
          </text>
        </g>
      ))}
    </Picture>
  )
}
