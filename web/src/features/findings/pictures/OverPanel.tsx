import { useQuery } from '@tanstack/react-query'

import { overMachinesQuery } from '@/api/queries'
import type { Findings, Study } from '@/api/types'
import { against, overMachinesTable } from '@/charts/layout/overMachines'
import { OverMachinesPicture } from '@/charts/OverMachinesPicture'
import { WordList } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'

import { Chooser } from '@/ui/Chooser'
import { Panel } from '../Panel'
import { measureSaid } from '../rowWords'
import { nextOf, useView } from '@/ui/useView'

/** One measure over all machines: the ratio on each, together, and where they disagree. */
export function OverPanel({ study, findings }: { study: Study; findings: Findings }) {
  const view = useView()
  const rows = findings.machines
  const row = rows.find((one) => one.key === view.get('measure')) ?? rows[0]!
  const pairs = useQuery(overMachinesQuery(study.id, row.key))
  const entrants = [...new Set(study.contenders.map((one) => one.entrant))].filter(
    (name) => !pairs.data || against(pairs.data, name).length,
  )
  const baseline = entrants.includes(view.get('base')) ? view.get('base') : entrants[0]!
  const laneOf = (name: string) => study.contenders.find((one) => one.entrant === name)?.lane_no ?? 1
  const choose = (key: string) => view.put({ measure: key })
  useShortcuts([
    { key: 'b', says: 'Next baseline', run: () => view.put({ base: nextOf(entrants, baseline) }) },
    { key: 'n', says: 'Next measure', run: () => choose(nextOf(rows, row).key) },
  ])
  if (pairs.error) return <Failed error={pairs.error} onRetry={() => void pairs.refetch()} />
  if (!pairs.data) return <Loading what="the ratios" />
  const found = pairs.data
  return (
    <Panel
      study={study}
      title={`Over machines: ${measureSaid(row).toLowerCase()}`}
      about={`ratios, ${row.leaders.length} machines, ${row.method.replaceAll('-', ' ')}`}
      headline={row.headline}
      says={row.sentence}
      table={overMachinesTable(row.label, found, baseline)}
      controls={
        <>
          <Chooser
            label="measure"
            keyName="N"
            chosen={row.key}
            onChoose={choose}
            options={rows.map((one) => ({ id: one.key, label: `${measureSaid(one)}, ${one.method}` }))}
          />
          <Chooser
            label="against"
            keyName="B"
            chosen={baseline}
            onChoose={(base) => view.put({ base })}
            options={entrants.map((name) => ({ id: name, label: name }))}
          />
        </>
      }
      after={
        <WordList>
          {against(found, baseline).map((pair) => (
            <li key={pair.b}>{pair.sentence}</li>
          ))}
        </WordList>
      }
    >
      {(width) => (
        <OverMachinesPicture row={row} pairs={found} baseline={baseline} laneOf={laneOf} width={width} />
      )}
    </Panel>
  )
}
