export type ScaleKind = 'points' | 'per cent' | 'stars'

/** The best score, and how finely scores are given. */
export const SCALES: Readonly<Record<ScaleKind, { top: number; step: number }>> = {
  points: { top: 10, step: 0.5 },
  'per cent': { top: 100, step: 1 },
  stars: { top: 5, step: 0.5 },
}

/** A score as it is written: 7.5 of 10, 80 %, 3½ of 5. */
export function scoreText(kind: ScaleKind, score: number): string {
  if (kind === 'per cent') return `${score} %`
  const top = SCALES[kind].top
  if (kind === 'stars' && score % 1 === 0.5) return `${Math.floor(score) || ''}½ of ${top}`
  return `${score} of ${top}`
}
