import { token } from '@/theme/tokens'

type Props = { x: number; top: number; bottom: number; side: 'left' | 'right' }

/** The good end of an axis. */
export function Pennant({ x, top, bottom, side }: Props) {
  const reach = side === 'left' ? 13 : -13
  return (
    <g>
      <line x1={x} x2={x} y1={top} y2={bottom} stroke={token('pine')} strokeWidth={2} />
      <path d={`M${x},${top}l${reach},5l${-reach},5z`} fill={token('pine')} />
    </g>
  )
}
