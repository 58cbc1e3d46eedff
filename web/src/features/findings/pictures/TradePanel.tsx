import type { FindingRow, Findings, Study } from '@/api/types'
import { bestInBoth, tradeTable } from '@/charts/layout/tradeOff'
import { TradeOffPicture } from '@/charts/TradeOffPicture'

import { Chooser } from '@/ui/Chooser'
import { Panel } from '../Panel'
import { measureSaid } from '../rowWords'
import { machinesOf, tradable } from '../studyPictures'
import { useView } from '@/ui/useView'

type Names = ReadonlyMap<number, string>

/** Any two measures of one machine against one another. */
export function TradePanel({ study, findings, names }: { study: Study; findings: Findings; names: Names }) {
  const view = useView()
  const machines = machinesOf(study).filter((machine) => tradable(findings.rows, machine).length > 1)
  const machine = machines.includes(view.get('machine')) ? view.get('machine') : machines[0]!
  const rows = tradable(findings.rows, machine)
  const across = rows.find((row) => row.key === view.get('across')) ?? rows[0]!
  const up =
    rows.find((row) => row.key === view.get('up')) ??
    rows.find((row) => row.metric === 'memory.used') ??
    rows[1]!
  const options = rows.map((row) => ({ id: row.key, label: `${measureSaid(row)}, ${row.method}` }))
  const controls = (
    <>
      {machines.length > 1 && (
        <Chooser
          label="on"
          options={machines.map((one) => ({ id: one, label: one }))}
          chosen={machine}
          onChoose={(id) => view.put({ machine: id, across: '', up: '' })}
        />
      )}
      <Chooser
        label="across"
        options={options}
        chosen={across.key}
        onChoose={(id) => view.put({ across: id })}
      />
      <Chooser label="up" options={options} chosen={up.key} onChoose={(id) => view.put({ up: id })} />
    </>
  )
  return (
    <Panel
      study={study}
      title={`${across.label} and ${up.label.toLowerCase()}`}
      about={machine}
      {...tradeSaid(across, up, names)}
      table={tradeTable(across, up, names)}
      controls={controls}
    >
      {(width) => <TradeOffPicture across={across} up={up} names={names} width={width} />}
    </Panel>
  )
}

/** Who is on the frontier, in a few words and in a sentence. */
export function tradeSaid(
  across: FindingRow,
  up: FindingRow,
  names: Names,
): { headline: string; says: string } {
  const best = bestInBoth(across, up).map((laneNo) => names.get(laneNo) ?? '')
  if (best.length === 1)
    return { headline: `${best[0]} is best in both`, says: `By its medians ${best[0]} is best in both.` }
  const headline =
    best.length === 2
      ? `Either ${best[0]} or ${best[1]}`
      : `${best.length} of ${across.lanes.length} are worth a choice`
  return { headline, says: `By their medians no other beats these in both: ${best.join(', ')}.` }
}
