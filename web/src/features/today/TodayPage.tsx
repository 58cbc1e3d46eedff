import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'

import { useTodayEvents } from '@/api/todayEvents'
import { todayQuery } from '@/api/queries'
import { Empty, Failed, Loading } from '@/ui/States'
import { useNow } from '@/ui/useNow'

import { ActionsNeeded } from './ActionsNeeded'
import { MachineLane } from './MachineLane'

/** What each machine is doing, what comes next there, and what needs a action. */
export function TodayPage() {
  const today = useQuery(todayQuery())
  const live = useTodayEvents(today.data?.last_event)
  const now = useNow(today.data?.machines.some((machine) => machine.is_moving) ?? false)
  useEffect(() => {
    document.title = 'Today · Hare Mile'
  }, [])
  return (
    <main>
      <div className="titlebar">
        <div>
          <h1>Today</h1>
          <div className="soft">{today.data ? summary(today.data.machines, today.data.actions_needed.length) : 'every machine with runs to do'}</div>
        </div>
      </div>
      {today.isPending && <Loading what="the machines" />}
      {today.error && <Failed error={today.error} onRetry={() => void today.refetch()} />}
      {today.data && today.data.actions_needed.length > 0 && <ActionsNeeded actions={today.data.actions_needed} />}
      {today.data && today.data.machines.length > 0 && (
        <ul className="machines sheet" aria-label="Machines">
          {today.data.machines.map((machine) => (
            <MachineLane key={machine.name} machine={machine} live={live} nowMs={now} />
          ))}
        </ul>
      )}
      {today.data?.machines.length === 0 && (
        <Empty title="No machine has anything to do.">
          <p>Plan a study (N on the list of studies), or look at what was found.</p>
        </Empty>
      )}
    </main>
  )
}

function summary(machines: { is_moving: boolean }[], actions: number): string {
  const moving = machines.filter((machine) => machine.is_moving).length
  const still = machines.length - moving
  const parts = [`${moving} at work`, `${still} waiting`]
  return `${parts.join(', ')} · ${actions ? `${actions} ${actions === 1 ? 'needs' : 'need'} you` : 'nothing needs you'}`
}
