import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'

import { todayQuery } from '@/api/queries'
import { useTodayEvents } from '@/api/todayEvents'
import { Main, Sheet, Soft, TitleBar } from '@/ui/kit'
import { Empty, Failed, Loading } from '@/ui/States'
import { useNow } from '@/ui/useNow'

import { ActionsNeeded } from './ActionsNeeded'
import { MachineLane } from './MachineLane'

/** What each machine is doing, what comes next there, and what needs a person. */
export function TodayPage() {
  const today = useQuery(todayQuery())
  const live = useTodayEvents(today.data?.last_event)
  const now = useNow(today.data?.machines.some((machine) => machine.is_moving) ?? false)
  useEffect(() => {
    document.title = 'Today · Hare Mile'
  }, [])
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Today</h1>
          <Soft as="div">
            {today.data
              ? summary(today.data.machines, today.data.actions_needed.length)
              : 'every machine with runs to do'}
          </Soft>
        </div>
      </TitleBar>
      {today.isPending && <Loading what="the machines" />}
      {today.error && <Failed error={today.error} onRetry={() => void today.refetch()} />}
      {today.data && today.data.actions_needed.length > 0 && (
        <ActionsNeeded actions={today.data.actions_needed} />
      )}
      {today.data && today.data.machines.length > 0 && (
        <Sheet as="ul" aria-label="Machines" sx={{ listStyle: 'none', m: '14px 0 0', p: 0 }}>
          {today.data.machines.map((machine) => (
            <MachineLane key={machine.name} machine={machine} live={live} nowMs={now} />
          ))}
        </Sheet>
      )}
      {today.data?.machines.length === 0 && (
        <Empty title="No machine has anything to do.">
          <p>Plan a study (N on the list of studies), or look at what was found.</p>
        </Empty>
      )}
    </Main>
  )
}

function summary(machines: { is_moving: boolean }[], actions: number): string {
  const moving = machines.filter((machine) => machine.is_moving).length
  const still = machines.length - moving
  const parts = [`${moving} at work`, `${still} waiting`]
  return `${parts.join(', ')} · ${actions ? `${actions} ${actions === 1 ? 'needs' : 'need'} you` : 'nothing needs you'}`
}
