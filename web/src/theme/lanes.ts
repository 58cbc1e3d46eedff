import { token, type TokenName } from './tokens'

export type Mark =
  'square' | 'circle' | 'diamond' | 'triangle' | 'plus' | 'wedge' | 'star' | 'hexagon' | 'ring'

/** A lane keeps its colour and its mark everywhere; colour is never the only difference. */
const LANES: readonly { colour: TokenName; mark: Mark }[] = [
  { colour: 'slate', mark: 'square' },
  { colour: 'pine', mark: 'circle' },
  { colour: 'ochre', mark: 'diamond' },
  { colour: 'rust', mark: 'triangle' },
  { colour: 'plum', mark: 'plus' },
  { colour: 'sea', mark: 'wedge' },
  { colour: 'umber', mark: 'star' },
  { colour: 'rose', mark: 'hexagon' },
  { colour: 'moss', mark: 'ring' },
]

export function laneAppearance(laneNo: number): { colour: string; mark: Mark } {
  const index = (laneNo - 1) % LANES.length
  const round = Math.floor((laneNo - 1) / LANES.length)
  const marks = LANES[(index + round * 4) % LANES.length]!
  return { colour: token(LANES[index]!.colour), mark: marks.mark }
}

const polygon = (points: number, r: number, inner = r) =>
  Array.from({ length: points * (inner === r ? 1 : 2) }, (_, i, all = points * (inner === r ? 1 : 2)) => {
    const angle = (i / all) * 2 * Math.PI - Math.PI / 2
    const radius = i % 2 && inner !== r ? inner : r
    return `${(radius * Math.cos(angle)).toFixed(2)},${(radius * Math.sin(angle)).toFixed(2)}`
  }).join('L')

/** The outline of a mark of about 2r across, centred on the origin. */
export function markPath(mark: Mark, r: number): string {
  const a = r * 0.9
  const t = r * 0.34
  switch (mark) {
    case 'square':
      return `M${-a},${-a}H${a}V${a}H${-a}Z`
    case 'circle':
      return `M${-r},0a${r},${r} 0 1,0 ${2 * r},0a${r},${r} 0 1,0 ${-2 * r},0Z`
    case 'diamond':
      return `M0,${-r * 1.15}L${r * 1.15},0L0,${r * 1.15}L${-r * 1.15},0Z`
    case 'triangle':
      return `M0,${-r * 1.1}L${r * 1.1},${a}L${-r * 1.1},${a}Z`
    case 'plus':
      return `M${-t},${-r}H${t}V${-t}H${r}V${t}H${t}V${r}H${-t}V${t}H${-r}V${-t}H${-t}Z`
    case 'wedge':
      return `M0,${r * 1.1}L${r * 1.1},${-a}L${-r * 1.1},${-a}Z`
    case 'star':
      return `M${polygon(5, r * 1.25, r * 0.5)}Z`
    case 'hexagon':
      return `M${polygon(6, r * 1.1)}Z`
    case 'ring': {
      const i = r * 0.5
      return `${markPath('circle', r)}M${-i},0a${i},${i} 0 1,1 ${2 * i},0a${i},${i} 0 1,1 ${-2 * i},0Z`
    }
  }
}
