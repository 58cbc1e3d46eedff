import { createContext, useContext } from 'react'

import { laneAppearance } from '@/theme/lanes'

/** The number from which each lane takes colour and mark: that of its entrant, on any machine. */
export const AppearanceContext = createContext<ReadonlyMap<number, number>>(new Map())

/** How a lane is drawn; a lane of which nothing is known appearances by its own number. */
export function useAppearance(): (laneNo: number) => ReturnType<typeof laneAppearance> {
  const appearances = useContext(AppearanceContext)
  return (laneNo) => laneAppearance(appearances.get(laneNo) ?? laneNo)
}
