import type { Scorecard, ScorecardIn, TieChoice } from '@/api/scorecards'
import type { ScaleKind } from '@/format/scores'

/** A card while it is written: everything as text. */
export type CardDraft = {
  scale: ScaleKind
  words: string
  criteria: { name: string; score: string; why: string }[]
  points: { isGood: boolean; says: string; tie: string }[]
  forWhom: string
  notForWhom: string
}

const USUAL = ['Installing', 'Start and rest', 'First hour', 'Keeping it up to date']

/** The card as it is written on; a first one begins with the usual criteria. */
export const draftOf = (card: Scorecard | null): CardDraft => ({
  scale: card?.scale.kind ?? 'stars',
  words: (card?.scale.words ?? []).map((one) => `${one.at} ${one.word}`).join('; '),
  criteria: card
    ? card.criteria.map((one) => ({ name: one.name, score: one.score?.toString() ?? '', why: one.why }))
    : USUAL.map((name) => ({ name, score: '', why: '' })),
  points: (card?.points ?? []).map((one) => ({
    isGood: one.is_good,
    says: one.says,
    tie: one.tie ? JSON.stringify(one.tie) : '',
  })),
  forWhom: card?.for_whom ?? '',
  notForWhom: card?.not_for_whom ?? '',
})

const WORD = /^\s*(\d+(?:[.,]\d+)?)\s+(\S.*?)\s*$/

/** Words for steps out of one line; null where a part of it is none. */
export function stepWords(text: string): { at: number; word: string }[] | null {
  const parts = text.split(';').filter((part) => part.trim() !== '')
  const found = parts.map((part) => WORD.exec(part))
  if (found.some((one) => one === null)) return null
  return found.map((one) => ({ at: Number(one![1]!.replace(',', '.')), word: one![2]! }))
}

/** What is handed in; null while something that it needs is missing. */
export function cardOf(draft: CardDraft, after: number): ScorecardIn | null {
  const words = stepWords(draft.words)
  const criteria = draft.criteria.filter((one) => one.name.trim() !== '')
  if (words === null || !criteria.length) return null
  if (criteria.some((one) => one.score !== '' && !Number.isFinite(Number(one.score)))) return null
  return {
    after,
    scale: draft.scale,
    words,
    criteria: criteria.map((one) => ({
      name: one.name.trim(),
      score: one.score === '' ? null : Number(one.score),
      why: one.why.trim(),
    })),
    points: draft.points
      .filter((one) => one.says.trim() !== '')
      .map((one) => ({
        is_good: one.isGood,
        says: one.says.trim(),
        tie: one.tie ? (JSON.parse(one.tie) as TieChoice['tie']) : null,
      })),
    for_whom: draft.forWhom.trim(),
    not_for_whom: draft.notForWhom.trim(),
  }
}
