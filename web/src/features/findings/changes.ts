import type { Contender, FindingRow, RunSheet, Study } from '@/api/types'
import type { Change } from '@/charts/layout/slopes'

/** What became of one contender: a lane before, and a lane after. */
export type Step = { before: Contender; after: Contender }

export type ChangeKind = { id: string; label: string; words: readonly [string, string]; steps: Step[] }

type Observed = ReadonlyMap<number, Readonly<Record<string, string>>>

const BARE = /^(base|bare|core|minimal|none)$/i

const isSameSystem = (a: Contender, b: Contender) => a.install.system.name === b.install.system.name
const isOneMachine = (a: Contender, b: Contender) => a.install.machine.name === b.install.machine.name
const isFamily = (a: Contender, b: Contender) =>
  a.install.system.distribution !== null && a.install.system.distribution === b.install.system.distribution

const KINDS: {
  id: string
  label: string
  words: readonly [string, string]
  isStep: (a: Contender, b: Contender, observed: Observed) => boolean
}[] = [
  {
    id: 'installing',
    label: 'Live against installed',
    words: ['live', 'installed'],
    isStep: (a, b, observed) =>
      isSameSystem(a, b) &&
      states(observed, a, 'medium') === 'live' &&
      states(observed, b, 'medium') === 'installed' &&
      states(observed, a, 'updates_pending') === states(observed, b, 'updates_pending'),
  },
  {
    id: 'updating',
    label: 'Before and after updates',
    words: ['before updates', 'up to date'],
    isStep: (a, b, observed) =>
      isSameSystem(a, b) &&
      Number(states(observed, a, 'updates_pending')) > 0 &&
      states(observed, b, 'updates_pending') === '0' &&
      states(observed, a, 'medium') === states(observed, b, 'medium'),
  },
  {
    id: 'desktop',
    label: 'Bare base against edition',
    words: ['bare base', 'edition'],
    isStep: (a, b) =>
      isFamily(a, b) &&
      BARE.test(a.install.system.edition ?? '') &&
      !BARE.test(b.install.system.edition ?? '') &&
      a.install.system.release === b.install.system.release,
  },
  {
    id: 'release',
    label: 'Release against release',
    words: ['older', 'newer'],
    isStep: (a, b) =>
      isFamily(a, b) &&
      a.install.system.edition === b.install.system.edition &&
      a.install.name === b.install.name &&
      isOlder(a.install.system.release, b.install.system.release),
  },
]

const states = (observed: Observed, one: Contender, key: string) => observed.get(one.lane_no)?.[key]

const isOlder = (a: string | null, b: string | null) =>
  a !== null && b !== null && a.localeCompare(b, 'en', { numeric: true }) < 0

/** The changes that a study's contenders show on one machine each; those without any are absent. */
export function changeKinds(study: Study, sheet: RunSheet): ChangeKind[] {
  const observed: Observed = new Map(sheet.lanes.map((lane) => [lane.lane_no, lane.observed_conditions]))
  return KINDS.map(({ isStep, ...kind }) => ({
    ...kind,
    steps: study.contenders.flatMap((before) =>
      study.contenders
        .filter((after) => isOneMachine(before, after) && isStep(before, after, observed))
        .map((after) => ({ before, after })),
    ),
  })).filter((kind) => kind.steps.length)
}

/** The steps that were measured in these rows of one measure, each with what tells it apart. */
export function changesOf(kind: ChangeKind, rows: readonly FindingRow[]): Change[] {
  const isMany = new Set(kind.steps.map((step) => step.before.install.machine.name)).size > 1
  return kind.steps.flatMap(({ before, after }) => {
    const row = rows.find((one) => one.machine === before.install.machine.name)
    const has = (laneNo: number) => row?.lanes.some((lane) => lane.lane_no === laneNo && lane.summary)
    if (!row || !has(before.lane_no) || !has(after.lane_no)) return []
    const name = kind.id === 'release' || kind.id === 'desktop' ? after.entrant : after.install.system.name
    return [{ row, before: before.lane_no, after: after.lane_no, label: isMany ? `${row.machine}` : name }]
  })
}
