import { token } from '@/theme/tokens'

/** A run that failed. */
export const Cross = ({ x, y, r = 5 }: { x: number; y: number; r?: number }) => (
  <path
    d={`M${x - r},${y - r}L${x + r},${y + r}M${x + r},${y - r}L${x - r},${y + r}`}
    stroke={token('rust')}
    strokeWidth={2.2}
    fill="none"
  />
)
