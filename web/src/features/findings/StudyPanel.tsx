import type { Findings, RunSheet, Study } from '@/api/types'
import { later } from '@/ui/later'

import { Facts } from './Facts'
import { ChangePanel } from './pictures/ChangePanel'
import { FailuresPanel } from './pictures/FailuresPanel'
import { MemoryPanel } from './pictures/MemoryPanel'
import { OverPanel } from './pictures/OverPanel'
import { PartsPanel } from './pictures/PartsPanel'
import { SettlingPanel } from './pictures/SettlingPanel'
import { TradePanel } from './pictures/TradePanel'

const RaceCard = later(() => import('./RaceCard').then((module) => module.RaceCard))

type Props = { study: Study; findings: Findings; sheet: RunSheet; names: ReadonlyMap<number, string>; picture: string }

const PANELS: Record<string, (props: Omit<Props, 'picture'>) => React.ReactNode> = {
  over: OverPanel, change: ChangePanel, parts: PartsPanel, memory: MemoryPanel, settling: SettlingPanel, trade: TradePanel,
  failures: FailuresPanel, facts: Facts, card: RaceCard,
}

/** A picture of the whole study. */
export function StudyPanel({ picture, ...props }: Props) {
  const Shown = PANELS[picture] ?? RaceCard
  return <Shown {...props} />
}
