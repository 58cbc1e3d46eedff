import { useQuery } from '@tanstack/react-query'

import { tracesQuery } from '@/api/queries'
import type { Findings, Study } from '@/api/types'
import { curvesSaid, curvesTable, rangesTable } from '@/charts/layout/settling'
import { SettlingPicture } from '@/charts/SettlingPicture'
import { csvOf } from '@/format/table'
import { Stack } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'

import { Panel } from '../Panel'
import { BESIDE, lanesOn, machinesOf } from '../studyPictures'

type Props = { study: Study; findings: Findings; names: ReadonlyMap<number, string> }

/** Heat, frequency and throttling while runs went on, each machine's own. */
export const BesidePanel = ({ study, findings, names }: Props) => (
  <Stack>
    {Object.keys(BESIDE)
      .filter((metric) => findings.curves.includes(metric))
      .map((metric) => (
        <OneOf key={metric} metric={metric} study={study} names={names} />
      ))}
  </Stack>
)

function OneOf({ metric, study, names }: { metric: string; study: Study; names: Props['names'] }) {
  const of = BESIDE[metric]!
  const traces = useQuery(tracesQuery(study.id, metric))
  if (traces.error) return <Failed error={traces.error} onRetry={() => void traces.refetch()} />
  if (!traces.data) return <Loading what="the curves" />
  return machinesOf(study).map((machine) => {
    const own = lanesOn(study, machine, names)
    const found = traces.data.filter((one) => own.has(one.lane_no) && one.times_s.length > 1)
    if (!found.length) return null
    return (
      <Panel
        key={machine}
        study={study}
        title={of.title}
        about={machine}
        headline={curvesSaid(found, of)}
        says="Looked at every two seconds beside each run; a machine that grows hot or slow in one lane alone is no fair start."
        table={rangesTable(found, own, of)}
        data={() => csvOf(curvesTable(found, own, of))}
      >
        {(width) => <SettlingPicture traces={found} names={own} width={width} of={of} />}
      </Panel>
    )
  })
}
