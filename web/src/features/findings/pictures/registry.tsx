import type { ComponentType } from 'react'

import type { Findings, RunSheet, Study } from '@/api/types'
import { later } from '@/ui/later'

import { changeKinds } from '../changes'
import { Facts } from '../Facts'
import { BESIDE, hasParts, machinesWithDefinitions, rowMachines, SETTLING, tradable } from '../studyPictures'
import { BesidePanel } from './BesidePanel'
import { ChangePanel } from './ChangePanel'
import { FailuresPanel } from './FailuresPanel'
import { MemoryPanel } from './MemoryPanel'
import { OverPanel } from './OverPanel'
import { PartsPanel } from './PartsPanel'
import { RampPanel } from './RampPanel'
import { SettlingPanel } from './SettlingPanel'
import { TradePanel } from './TradePanel'

const RaceCard = later(() => import('../RaceCard').then((module) => module.RaceCard))

export type PictureProps = {
  study: Study
  findings: Findings
  sheet: RunSheet
  names: ReadonlyMap<number, string>
}

export type Picture = {
  /** As the address names it. */
  id: string
  label: string
  /** Whether something was measured that it shows; else it is absent. */
  isFor: (of: PictureProps) => boolean
  Panel: ComponentType<PictureProps>
  /** Whether it takes the whole page, without the verdict sheet beside it. */
  isWide?: boolean
}

/** Every picture of a whole study, in the order of the strip. */
export const PICTURES: readonly Picture[] = [
  {
    id: 'over',
    label: 'Over machines',
    isFor: ({ findings }) => findings.machines.length > 0,
    Panel: OverPanel,
  },
  {
    id: 'change',
    label: 'Before and after',
    isFor: ({ study, sheet }) => changeKinds(study, sheet).length > 0,
    Panel: ChangePanel,
  },
  {
    id: 'parts',
    label: 'Parts of the boot',
    isFor: ({ findings }) => hasParts(findings.rows),
    Panel: PartsPanel,
  },
  {
    id: 'memory',
    label: 'Memory definitions',
    isFor: ({ findings }) => machinesWithDefinitions(findings.rows).length > 0,
    Panel: MemoryPanel,
  },
  {
    id: 'load',
    label: 'Load',
    isFor: ({ findings }) => findings.rows.some((row) => row.metric === 'ramp.steps'),
    Panel: RampPanel,
  },
  {
    id: 'settling',
    label: 'Settling',
    isFor: ({ findings }) => findings.curves.includes(SETTLING),
    Panel: SettlingPanel,
  },
  {
    id: 'beside',
    label: 'Heat and frequency',
    isFor: ({ findings }) => Object.keys(BESIDE).some((metric) => findings.curves.includes(metric)),
    Panel: BesidePanel,
  },
  {
    id: 'trade',
    label: 'Trade-off',
    Panel: TradePanel,
    isFor: ({ findings: { rows } }) =>
      rowMachines(rows).some((machine) => tradable(rows, machine).length > 1),
  },
  {
    id: 'failures',
    label: 'Reliability',
    isFor: ({ findings }) => findings.reliability.length > 0,
    Panel: FailuresPanel,
  },
  { id: 'facts', label: 'Facts', isFor: () => true, Panel: Facts },
  { id: 'card', label: 'Race card', isFor: () => true, Panel: RaceCard, isWide: true },
]

/** The pictures of this study. */
export const picturesOf = (of: PictureProps) => PICTURES.filter((one) => one.isFor(of))
