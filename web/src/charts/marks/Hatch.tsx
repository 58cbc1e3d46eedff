import { token } from '@/theme/tokens'

/** What is hatched with `url(#id)`: too small to matter, or no part of the time. */
export const Hatch = ({ id }: { id: string }) => (
  <defs>
    <pattern id={id} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
      <line x1="0" y1="0" x2="0" y2="6" stroke={token('rule')} strokeWidth={2.8} />
    </pattern>
  </defs>
)
