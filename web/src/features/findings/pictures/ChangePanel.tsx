import { useQuery } from '@tanstack/react-query'

import { columnsQuery } from '@/api/queries'
import type { FindingRow, Findings, RunSheet, Study } from '@/api/types'
import { onMachines } from '@/charts/layout/machineGrid'
import { changeSaid, pairOf, slopesTable, type Change } from '@/charts/layout/slopes'
import { SlopesPicture } from '@/charts/SlopesPicture'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'

import { changeKinds, changesOf } from '../changes'
import { Chooser } from '@/ui/Chooser'
import { Panel } from '../Panel'
import { aboutRow, measureSaid } from '../rowWords'
import { nextOf, useView } from '@/ui/useView'

type Props = { study: Study; findings: Findings; sheet: RunSheet }

/** Before and after: what installing, updating, a desktop or a release changed. */
export function ChangePanel({ study, findings, sheet }: Props) {
  const view = useView()
  const kinds = changeKinds(study, sheet)
  const kind = kinds.find((one) => one.id === view.get('change')) ?? kinds[0]!
  const shared = firstOfEach(findings.rows).filter(
    (row) => changesOf(kind, onMachines(row, findings.rows)).length,
  )
  const row = shared.find((one) => one.key === view.get('measure')) ?? shared[0]
  const columns = useQuery({ ...columnsQuery(study.id, row?.metric ?? ''), enabled: row !== undefined })
  useShortcuts(
    row
      ? [
          { key: 'n', says: 'Next measure', run: () => view.put({ measure: nextOf(shared, row).key }) },
          { key: 'b', says: 'Another change', run: () => view.put({ change: nextOf(kinds, kind).id }) },
        ]
      : [],
  )
  if (columns.error) return <Failed error={columns.error} onRetry={() => void columns.refetch()} />
  if (!row || !columns.data) return <Loading what="the readings" />
  const changes = changesOf(kind, onMachines(row, findings.rows))
  return (
    <Panel
      study={study}
      title={`${kind.label}: ${measureSaid(row).toLowerCase()}`}
      about={changes.length > 1 ? `${aboutRow(row).split(', ')[0]}, ${changes.length} pairs` : aboutRow(row)}
      headline={changeHeadline(changes, kind.words)}
      says={changeSentence(changes, kind.words)}
      table={slopesTable(changes)}
      controls={
        <>
          {kinds.length > 1 && (
            <Chooser
              label="what changed"
              keyName="B"
              chosen={kind.id}
              options={kinds}
              onChoose={(id) => view.put({ change: id })}
            />
          )}
          <Chooser
            label="measure"
            keyName="N"
            chosen={row.key}
            onChoose={(id) => view.put({ measure: id })}
            options={shared.map((one) => ({ id: one.key, label: `${measureSaid(one)}, ${one.method}` }))}
          />
        </>
      }
    >
      {(width) => (
        <SlopesPicture
          changes={changes}
          columns={columns.data}
          before={kind.words[0]}
          after={kind.words[1]}
          width={width}
        />
      )}
    </Panel>
  )
}

const firstOfEach = (rows: readonly FindingRow[]) => rows.filter((row) => onMachines(row, rows)[0] === row)

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

/** The widest change, in a few words. */
export function changeHeadline(changes: readonly Change[], words: readonly [string, string]): string {
  const size = (change: Change) => Math.abs(pairOf(change)?.shift.value ?? 0)
  const widest = [...changes].sort((a, b) => size(b) - size(a))[0]
  return widest
    ? `${capital(words[1])}: ${changeSaid(widest)}, ${widest.label}`
    : 'Nothing to set side by side'
}

/** Every change with its verdict, in a sentence. */
export function changeSentence(changes: readonly Change[], words: readonly [string, string]): string {
  const parts = changes.map(
    (change) => `${change.label} ${changeSaid(change)}, ${pairOf(change)?.verdict ?? 'open'}`,
  )
  return `${capital(words[1])} against ${words[0]}: ${parts.join('; ')}.`
}
