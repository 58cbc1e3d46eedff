import { USUAL_REPEATS, type Draft } from '@/api/plan'
import type { Study } from '@/api/types'

export const REPEATS = [
  { name: 'Quick', blocks: 5, says: 'Tells large differences only.' },
  { name: 'Usual', blocks: USUAL_REPEATS, says: 'Tells what most people would notice.' },
  { name: 'Publish', blocks: 30, says: 'Tells small differences, and how often something fails.' },
] as const

export const STARTS = [
  { value: 'warm', label: 'warm: opened before' },
  { value: 'first-after-boot', label: 'first after a boot' },
  { value: 'cache-dropped', label: 'with caches dropped' },
  { value: 'first-ever', label: 'first ever on this install' },
] as const

export type Launch = { app: string; start: string }

/** What is typed so far, from what the server keeps. */
export function draftOf(study: Study): Draft {
  const kept = study.draft
  return {
    title: study.title,
    systems: kept?.systems ?? [],
    machines: kept?.machines ?? [],
    installs: kept?.installs ?? [],
    procedures: kept?.procedures ?? [],
    blocks: kept?.blocks ?? USUAL_REPEATS,
    margins: kept?.margins ?? {},
    interim_looks: kept?.interim_looks ?? [],
    stopping: kept?.stopping ?? null,
    seed: kept?.seed ?? null,
    order: kept?.order ?? null,
    seen_to: kept?.seen_to ?? [],
  }
}

/** The launches among the procedures: `launch:NAME`, or `launch:NAME:START`. */
export function launchesOf(procedures: readonly string[]): Launch[] {
  return procedures
    .filter((text) => text.startsWith('launch:'))
    .map((text) => {
      const [, app = '', start = 'warm'] = text.split(':')
      return { app, start }
    })
}

export const launchText = ({ app, start }: Launch) =>
  start === 'warm' ? `launch:${app}` : `launch:${app}:${start}`

/** A ramp as a plan asks for it; `opens` is empty for our own pages in turns. */
export type Ramp = { app: string; opens: string }

export const rampsOf = (procedures: readonly string[]): Ramp[] =>
  procedures
    .filter((text) => text.startsWith('ramp:'))
    .map((text) => {
      const [, app = '', ...opens] = text.split(':')
      return { app, opens: opens.join(':') }
    })

export const rampText = ({ app, opens }: Ramp) =>
  opens.trim() ? `ramp:${app}:${opens.trim()}` : `ramp:${app}`

/** Applications that a procedure is done with and that has no other options: `response:NAME`. */
export const appsOf = (procedures: readonly string[], key: 'response' | 'frames'): string[] =>
  procedures.filter((text) => text.startsWith(`${key}:`)).map((text) => text.slice(key.length + 1))

/** Procedures in the order in which they are done: plain ones as the server lists them, then what has options. */
export function withPlain(
  procedures: readonly string[],
  key: string,
  isIn: boolean,
  order: readonly string[],
) {
  const place = (text: string) => order.indexOf(text.split(':')[0]!)
  const rest = procedures.filter((text) => text.split(':')[0] !== key)
  return (isIn ? [...rest, key] : rest).sort((a, b) => place(a) - place(b))
}

/** Which measure of the tester's own is asked for: `command:KEY`, or `command:KEY:STEP`. */
export const measureOf = (text: string) => (text.startsWith('command:') ? (text.split(':')[1] ?? '') : '')

/** Procedures with a measure of the tester's own as it is asked for, or (empty) without it. */
export function withOwn(procedures: readonly string[], key: string, asked: string, order: readonly string[]) {
  const place = (text: string) => order.indexOf(text.split(':')[0]!)
  const rest = procedures.filter((text) => measureOf(text) !== key)
  return (asked ? [...rest, asked] : rest).sort((a, b) => place(a) - place(b))
}

/** Why a plan cannot be started yet; empty where it can. */
export function missing(draft: Draft): string[] {
  return [
    draft.title.trim() ? '' : 'its question',
    draft.installs.length ? '' : 'a contender',
    draft.procedures.length ? '' : 'what is measured',
    [
      ...launchesOf(draft.procedures).map((one) => one.app),
      ...rampsOf(draft.procedures).map((one) => one.app),
      ...appsOf(draft.procedures, 'response'),
      ...appsOf(draft.procedures, 'frames'),
    ].some((app) => !app.trim())
      ? 'the name of each application'
      : '',
  ].filter(Boolean)
}

/** Looks after each of so many blocks. */
export const everyBlock = (blocks: number) => Array.from({ length: blocks }, (_, place) => place + 1)

/** Whether verdicts are read after each block. */
export const isEveryBlock = (looks: readonly number[]) => looks.length > 1 && looks.length === looks.at(-1)

/** Another number of repeats; looks after every block go with it. */
export const withBlocks = (
  { interim_looks }: Pick<Draft, 'interim_looks'>,
  blocks: number,
): Partial<Draft> =>
  isEveryBlock(interim_looks) ? { blocks, interim_looks: everyBlock(blocks) } : { blocks }

/** Numbers parted by commas, as they are typed. */
export const numbersIn = (text: string) =>
  text
    .split(/[\s,]+/)
    .map(Number)
    .filter((one) => Number.isInteger(one) && one > 0)
