import { useAppearance } from '@/charts/appearance'
import { Box, Soft } from '@/ui/kit'

export type Past = { name: string; laneNo: number; value: number }

const WIDTH = 700
const LEFT = 200
const STEP = 46
const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60, 120, 300]

/** What was timed here so far: a tick a race, as wide as it is good to. */
export function SoFar({ past, halfWidth }: { past: readonly Past[]; halfWidth: number }) {
  const appearance = useAppearance()
  if (!past.length) return null
  const names = [...new Set(past.map((one) => one.name))]
  const values = past.map((one) => one.value)
  const least = Math.min(...values) - 2 * halfWidth
  const most = Math.max(...values) + 2 * halfWidth
  const room = Math.max((most - least) * 0.08, 0.5)
  const [low, high] = [least - room, most + room]
  const x = (value: number) => LEFT + ((value - low) / (high - low)) * (WIDTH - LEFT - 12)
  const step = STEPS.find((one) => (high - low) / one <= 6) ?? 600
  const first = Math.ceil(low / step)
  const ticks = Array.from({ length: Math.floor(high / step) - first + 1 }, (_, i) => (first + i) * step)
  const height = names.length * STEP + 26
  return (
    <Box as="section" aria-label="So far">
      <h2>So far</h2>
      <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={said(names, past)} width="100%">
        {names.map((name, row) => {
          const mine = past.filter((one) => one.name === name)
          const { colour } = appearance(mine[0]!.laneNo)
          return (
            <g key={name}>
              <text x={0} y={row * STEP + 28} fontSize={15} fontWeight={650} fill="var(--hm-ink)">
                {name.length > 24 ? `${name.slice(0, 23)}…` : name}
              </text>
              {mine.map((one, i) => (
                <g key={i}>
                  <rect
                    x={x(one.value - halfWidth)}
                    width={x(one.value + halfWidth) - x(one.value - halfWidth)}
                    y={row * STEP + 12}
                    height={24}
                    fill={colour}
                    opacity={0.16}
                  />
                  <line
                    x1={x(one.value)}
                    x2={x(one.value)}
                    y1={row * STEP + 9}
                    y2={row * STEP + 39}
                    stroke={colour}
                    strokeWidth={2.6}
                  />
                </g>
              ))}
              <line x1={0} x2={WIDTH} y1={(row + 1) * STEP} y2={(row + 1) * STEP} stroke="var(--hm-rule)" />
            </g>
          )
        })}
        {ticks.map((tick) => (
          <text key={tick} x={x(tick)} y={height - 6} fontSize={13} textAnchor="middle" fill="var(--hm-soft)">
            {`${Number(tick.toFixed(1))} s`}
          </text>
        ))}
      </svg>
      <Soft as="p" sx={{ mb: 0 }}>
        The shade is what one time is good to; repeats make the median better than that.
      </Soft>
    </Box>
  )
}

const said = (names: readonly string[], past: readonly Past[]) =>
  names
    .map(
      (name) =>
        `${name}: ${past
          .filter((one) => one.name === name)
          .map((one) => `${one.value.toFixed(1)} s`)
          .join(', ')}`,
    )
    .join('; ')
