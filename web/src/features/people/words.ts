import type { Schemas } from '@/api/types'

export const ROLES: Record<Schemas['Role'], string> = {
  look: 'may look',
  work: 'may also plan, run, set aside and bring files',
  own: 'may do everything: keys, recipes, people',
}

/** A browser as people name theirs. */
export function browserName(agent: string): string {
  const name = /(Firefox|Edg|Chrom(?:e|ium)|Safari)/.exec(agent)?.[1]
  const place = /(Android|iPhone|iPad|Windows|Macintosh|Linux)/.exec(agent)?.[1]
  return (
    [name === 'Edg' ? 'Edge' : name, place && `on ${place}`].filter(Boolean).join(' ') ||
    agent.slice(0, 60) ||
    'not stated'
  )
}
