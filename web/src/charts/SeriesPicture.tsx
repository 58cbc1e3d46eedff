import type { Schemas } from '@/api/types'
import { token } from '@/theme/tokens'

import { seriesShape } from './layout/series'
import { Picture } from './marks/Picture'

const LETTER = 6.6

/** A series along releases or months: figures as points, limits as a stretch, what changed as upright lines. */
export function SeriesPicture({ page, width }: { page: Schemas['SeriesPage']; width: number }) {
  const shape = seriesShape(page, width)
  const room = page.releases.length > 1 ? shape.points[1]!.x - shape.points[0]!.x : width
  const most = Math.max(5, Math.floor(room / LETTER) - 1)
  return (
    <Picture
      viewBox={`0 0 ${width} ${shape.height}`}
      height={shape.height}
      role="img"
      aria-label={`Series: ${page.chosen?.label}`}
    >
      {shape.limits && (
        <>
          <rect
            x={70}
            width={width - 110}
            y={shape.limits.high}
            height={shape.limits.low - shape.limits.high}
            fill={token('slate')}
            opacity={0.14}
          />
          <line
            x1={70}
            x2={width - 40}
            y1={shape.limits.middle}
            y2={shape.limits.middle}
            stroke={token('slate')}
            strokeDasharray="5 4"
          />
          <text x={width - 44} y={shape.limits.high - 5} fontSize="12" textAnchor="end" className="soft">
            limits of the calm months
          </text>
        </>
      )}
      {shape.up.ticks.map((tick) => (
        <g key={tick.label}>
          <line x1={64} x2={70} y1={tick.x} y2={tick.x} stroke={token('soft')} />
          <text x={60} y={tick.x + 4} fontSize="12" textAnchor="end" className="soft">
            {tick.label}
          </text>
        </g>
      ))}
      <text x={14} y={14} fontSize="12" className="soft">
        {page.scale?.label}
      </text>
      {shape.breaks.map((one) => (
        <g key={`${one.x} ${one.what}`}>
          <title>{one.what}</title>
          <line x1={one.x} x2={one.x} y1={20} y2={shape.bottom} stroke={token('ochre')} strokeWidth={1.6} />
          <text x={one.x + 4} y={32} fontSize="12" className="soft">
            {one.what}
          </text>
        </g>
      ))}
      <path
        d={`M${shape.points.map((one) => `${one.x.toFixed(1)},${one.y.toFixed(1)}`).join('L')}`}
        fill="none"
        stroke={token('rule')}
        strokeWidth={2}
      />
      {shape.points.map((one) => (
        <g key={one.key}>
          <title>{`${one.name}: ${one.says}`}</title>
          {one.reach && (
            <rect
              x={one.x - 8}
              y={one.reach.high}
              width={16}
              height={one.reach.low - one.reach.high}
              fill={token('slate')}
              opacity={0.25}
            />
          )}
          {one.isOdd ? (
            <path d={`M${one.x},${one.y - 8}l8,8l-8,8l-8,-8Z`} fill={token('rust')} />
          ) : (
            <circle cx={one.x} cy={one.y} r={5.5} fill={token('slate')} />
          )}
          {one.isNamed && (
            <text x={one.x} y={shape.bottom + 22} fontSize="12" textAnchor="middle" className="soft">
              {one.name.length > most ? `${one.name.slice(0, most - 1)}…` : one.name}
            </text>
          )}
        </g>
      ))}
    </Picture>
  )
}
