import type { AskedStandings, StandingsPage } from '@/api/standings'
import type { View } from '@/ui/useView'

type Question = StandingsPage['questions'][number]

const WORDS = [
  'metric',
  'method',
  'start',
  'facet',
  'machine',
  'level',
  'desktop',
  'base',
  'channel',
] as const
const HELD = 'held.'

/** What the address asks for. An empty start or facet of a question is asked for as such. */
export function askedOf(view: View, search: URLSearchParams): AskedStandings {
  const asked: Record<string, unknown> = {}
  for (const name of WORDS) {
    if (view.get(name) || (view.get('metric') && (name === 'start' || name === 'facet')))
      asked[name] = view.get(name)
  }
  for (const name of ['since', 'until']) if (view.get(name)) asked[name] = Number(view.get(name))
  if (view.get('newest') === 'only') asked.newest_only = true
  const held = [...search].filter(([name]) => name.startsWith(HELD))
  if (held.length) asked.held = held.map(([name, value]) => `${name.slice(HELD.length)}:${value}`)
  return asked as AskedStandings
}

/** The name under which a condition is kept in the address. */
export const heldName = (key: string) => `${HELD}${key}`

/** A question in words: its measure, cold or warm, the application, and how it was taken. */
export const questionSaid = (one: Question, all: readonly Question[]) => {
  const parts = [one.start.replaceAll('-', ' '), one.facet].filter(Boolean)
  const alike = all.filter(
    (other) => other.metric === one.metric && other.start === one.start && other.facet === one.facet,
  )
  if (alike.length > 1) parts.push(one.method.replaceAll('-', ' '))
  return [one.label, ...parts].join(', ')
}

export const questionKey = (one: Question) => [one.metric, one.method, one.start, one.facet].join('|')

/** Bands as they are typed: names and limits by turns. Null where that is not so. */
export function typedBands(text: string): { names: string[]; limits: string[] } | null {
  const parts = text.split(',').map((part) => part.trim())
  if (parts.length < 3 || parts.length % 2 === 0 || parts.some((part) => !part)) return null
  return { names: parts.filter((_, i) => i % 2 === 0), limits: parts.filter((_, i) => i % 2 === 1) }
}
