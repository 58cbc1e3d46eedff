import { useQuery } from '@tanstack/react-query'

import { tracesQuery } from '@/api/queries'
import type { Study } from '@/api/types'
import { curvesTable, settlingSaid, settlingTable } from '@/charts/layout/settling'
import { SettlingPicture } from '@/charts/SettlingPicture'
import { csvOf } from '@/format/table'
import { Stack } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'

import { Panel } from '../Panel'
import { lanesOn, machinesOf, SETTLING } from '../studyPictures'

/** Memory after the boot over time, machine by machine. */
export function SettlingPanel({ study, names }: { study: Study; names: ReadonlyMap<number, string> }) {
  const traces = useQuery(tracesQuery(study.id, SETTLING))
  if (traces.error) return <Failed error={traces.error} onRetry={() => void traces.refetch()} />
  if (!traces.data) return <Loading what="the curves" />
  return (
    <Stack>
      {machinesOf(study).map((machine) => {
        const own = lanesOn(study, machine, names)
        const found = traces.data.filter((one) => own.has(one.lane_no) && one.times_s.length > 1)
        if (!found.length) return null
        const runs = new Set(found.map((one) => one.run_id)).size
        return (
          <Panel
            key={machine}
            study={study}
            title="Settling"
            about={machine}
            headline={settlingSaid(found)}
            says={`Memory falls after the boot until it is read; the mark stands where idle was declared in each of ${runs} runs.`}
            table={settlingTable(found, own)}
            data={() => csvOf(curvesTable(found, own))}
          >
            {(width) => <SettlingPicture traces={found} names={own} width={width} />}
          </Panel>
        )
      })}
    </Stack>
  )
}
