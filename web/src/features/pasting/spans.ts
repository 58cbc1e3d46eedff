import type { Pasted } from '@/api/byHand'

export type Span = { text: string; kind: 'plain' | 'piece' | 'stated' | 'question' | 'unread' }

const RANK = { plain: 0, unread: 1, stated: 2, piece: 3, question: 4 } as const

/** A text cut where what it holds begins and ends, each part with what it is. */
export function spans(found: Pasted): Span[] {
  const kinds = new Uint8Array(found.text.length)
  const paint = (start: number, end: number, kind: Span['kind']) => {
    for (let at = start; at < end; at += 1) kinds[at] = Math.max(kinds[at]!, RANK[kind])
  }
  for (const one of found.unread) paint(one.start, one.end, 'unread')
  for (const one of found.stated) paint(one.start, one.end, 'stated')
  for (const one of found.pieces) paint(one.start, one.end, 'piece')
  for (const one of found.questions) paint(one.start, one.end, 'question')
  const names = Object.keys(RANK) as Span['kind'][]
  const parts: Span[] = []
  for (let at = 0; at < found.text.length; at += 1) {
    const kind = names[kinds[at]!]!
    const last = parts.at(-1)
    if (last?.kind === kind) last.text += found.text[at]
    else parts.push({ text: found.text[at]!, kind })
  }
  return parts
}

const PROCEDURES: readonly [RegExp, string][] = [
  [/^boot\./, 'boot'],
  [/^(memory|process|thread|cpu)\./, 'idle'],
  [/^(disk|package)\./, 'footprint'],
  [/^launch\./, 'launch'],
  [/^install\./, 'install'],
]

/** Of which procedure's run a measure is read by hand. */
export const procedureOf = (metric: string) =>
  PROCEDURES.find(([pattern]) => pattern.test(metric))?.[1] ?? 'idle'
