import type { Schemas } from '@/api/types'
import { amount, count } from '@/format/numbers'

export type OutlookLine = Schemas['OutlookLine']
type LooksCost = Pick<Schemas['Outlook'], 'looks_most' | 'looks_typical'>

/** What one measure will tell, in a line. */
export function told({ found, scale }: OutlookLine, isOne: boolean): string {
  if (found.spread === null)
    return found.readings ? 'too few readings to tell from' : 'no readings to tell from'
  if (found.margin === null) return 'no margin, so no verdict'
  if (isOne) return `scatters by ${amount(found.spread, scale)}`
  if (found.smallest === null) return 'too few repeats for any verdict'
  const level =
    found.level_repeats === null ? 'never calls it level' : `level: ${count(found.level_repeats, 'repeat')}`
  return `tells ${amount(found.smallest, scale)}; ${level}`
}

/** What the whole plan tells, read from two metres. */
export function headline(lines: readonly OutlookLine[], isOne: boolean): string {
  const heads = lines.filter((line) => line.is_headline)
  if (isOne) return 'One contender: a summary, no verdict'
  const able = heads.filter((line) => line.found.smallest !== null)
  if (!able.length)
    return heads.some((line) => line.found.spread !== null)
      ? 'Too few repeats for any verdict'
      : 'Not known yet: a few blocks first'
  const first = able[0]!
  const rest = able.length - 1
  const and = rest ? `, and ${count(rest, 'measure')} more` : ''
  return `Tells ${lower(first.label)} apart from ${amount(first.found.smallest, first.scale)} on${and}`
}

/** What reading verdicts at looks costs against reading them once; empty with one look. */
export function looksCost({ looks_most: most, looks_typical: typical }: LooksCost, blocks: number): string {
  if (most <= 1) return ''
  const once = Math.max(Math.round(blocks / most), 1)
  const usual = Math.max(Math.round((blocks / most) * typical), 1)
  return `What ${count(once, 'repeat')} would tell with one look takes up to ${blocks} this way, ${usual} on average.`
}

const lower = (label: string) => label.charAt(0).toLowerCase() + label.slice(1)

/** From what it is known, how far a leader has to be ahead, and what is not known. */
export function details({ found, scale, label }: OutlookLine): string {
  const where = `${label}, ${found.machine}`
  if (found.spread === null)
    return `${where}: ${found.readings ? `only ${count(found.readings, 'reading')}` : 'no reading'} of it on this machine yet; run a pilot of a few blocks.`
  const from = `from ${count(found.readings, 'reading')} of ${count(found.installs, 'install')} (${found.method}), which scatter by ${amount(found.spread, scale)}`
  const leader =
    found.leader !== null && found.leader !== found.smallest
      ? ` A leader is told from all others at once from ${amount(found.leader, scale)} on.`
      : ''
  return `${where}: ${from}.${leader}`
}
