import { createContext, useContext } from 'react'

import { laneLook } from '@/theme/lanes'

/** The number from which each lane takes colour and mark: that of its entrant, on any machine. */
export const LooksContext = createContext<ReadonlyMap<number, number>>(new Map())

/** How a lane is drawn; a lane of which nothing is known looks by its own number. */
export function useLook(): (laneNo: number) => ReturnType<typeof laneLook> {
  const looks = useContext(LooksContext)
  return (laneNo) => laneLook(looks.get(laneNo) ?? laneNo)
}
