import { useEffect, useRef, useState } from 'react'

import { carried, elapsed, startClock, type ClockState } from './clock'
import { useKept } from '@/ui/kept'
import { emptyRace, noted, pressed, takenBack, type Race } from './race'

const TICK_MS = 100

type Kept = { race: Race; clock: ClockState | null }

/** The race of this browser: it outlives the page, and its clock goes on. */
export function useRace(kinds: readonly string[]) {
  const [kept, setKept, isKept] = useKept<Kept>('race', { race: emptyRace(kinds), clock: null })
  const [now, setNow] = useState(0)
  const hidden = useRef<number | null>(null)
  const isRunning = kept.clock !== null

  const mend = (state: Kept): Kept => {
    if (state.clock === null) return state
    const { clock, note } = carried(state.clock, performance.now(), Date.now())
    return note === null ? state : { clock, race: noted(state.race, note) }
  }
  useEffect(() => {
    if (!isRunning) return
    const tick = () => {
      setKept((state) => {
        const mended = mend(state)
        if (mended.clock) setNow(elapsed(mended.clock, performance.now()))
        return mended
      })
    }
    tick()
    const timer = setInterval(tick, TICK_MS)
    return () => clearInterval(timer)
  }, [isRunning, setKept])
  useEffect(() => {
    const onTurn = () => {
      if (document.hidden) hidden.current = performance.now()
      else if (hidden.current !== null) {
        const away = (performance.now() - hidden.current) / 1000
        hidden.current = null
        setKept((state) =>
          state.clock === null
            ? state
            : {
                ...state,
                race: noted(
                  state.race,
                  `this page was in the background for ${away.toFixed(0)} s: no mark could be pressed meanwhile`,
                ),
              },
        )
      }
    }
    document.addEventListener('visibilitychange', onTurn)
    return () => document.removeEventListener('visibilitychange', onTurn)
  }, [setKept])

  /** Marks lanes at the moment of a press, by its own stamp; `ready` is what begins where nothing runs yet. */
  const press = (ready: Race, ids: readonly string[], stamp: number) =>
    setKept((state) => {
      const { race, clock } = mend(state.clock === null ? { race: ready, clock: null } : state)
      const running = clock ?? startClock(stamp, Date.now() - (performance.now() - stamp))
      return { race: pressed(race, ids, elapsed(running, stamp), running.wall0), clock: running }
    })
  const undo = () =>
    setKept((state) => {
      const race = takenBack(state.race)
      return { race, clock: race.begunAt === null ? null : state.clock }
    })
  const change = (turn: (race: Race) => Race) => setKept((state) => ({ ...state, race: turn(state.race) }))
  const renew = (race: Race) => {
    setKept({ race, clock: null })
    setNow(0)
  }
  return { race: kept.race, now, isRunning, isKept, press, undo, change, renew }
}
