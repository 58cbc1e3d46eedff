import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import { quotedQuery } from '@/api/beside'
import { disturbancesQuery } from '@/api/queries'
import type { FindingRow, Findings, ReadingColumns, RunSheet, Study } from '@/api/types'
import { machinesTable, onMachines } from '@/charts/layout/machineGrid'
import { orderMarks } from '@/charts/layout/orderMarks'
import { servesLog } from '@/charts/layout/readingLanes'
import { rowTable } from '@/charts/layout/rowTable'
import { startsOf, startsSaid, startsTable } from '@/charts/layout/startLanes'
import { MachinesPicture } from '@/charts/MachinesPicture'
import { OrderPicture } from '@/charts/OrderPicture'
import { RowPicture } from '@/charts/RowPicture'
import { SpreadPicture } from '@/charts/SpreadPicture'
import { StartsPicture } from '@/charts/StartsPicture'
import type { Table } from '@/format/table'

import { useView } from '@/ui/useView'

export type RowProps = {
  study: Study
  findings: Findings
  sheet: RunSheet
  row: FindingRow
  names: ReadonlyMap<number, string>
  baseline: number
}

export type DrawnProps = RowProps & { columns: ReadingColumns; width: number }

type Said = { headline: string; says: string }

export type RowView = {
  /** As the address names it. */
  id: string
  label: string
  /** Whether there is something that it shows. */
  isFor: (row: FindingRow, rows: readonly FindingRow[]) => boolean
  said: (row: FindingRow, findings: Findings) => Said
  table: (of: RowProps) => Table
  Shown: (of: DrawnProps) => ReactNode
}

const ofTheRow = (row: FindingRow): Said => ({ headline: row.headline, says: row.sentence })
const rowOwnTable = ({ row, baseline, names }: RowProps) => rowTable(row, baseline, names)

/** Whether the axis is logarithmic: as asked, else where values lie far apart. */
export const isLogAsked = (asked: string, row: FindingRow, columns: ReadingColumns) =>
  asked ? asked === 'log' : servesLog([row], columns)

function Lanes({ study, row, columns, names, width, baseline }: DrawnProps) {
  const view = useView()
  const quoted = useQuery(quotedQuery(study.id))
  return (
    <RowPicture
      row={row}
      columns={columns}
      names={names}
      width={width}
      baseline={baseline}
      quoted={quoted.data?.filter((one) => one.row_key === row.key)}
      wish={{ isLog: isLogAsked(view.get('scale'), row, columns) }}
    />
  )
}

function InOrder({ study, sheet, row, columns, names, width }: DrawnProps) {
  const noted = useQuery(disturbancesQuery(study.id))
  return (
    <OrderPicture
      row={row}
      columns={columns}
      names={names}
      width={width}
      noted={orderMarks(row, sheet, noted.data ?? [])}
    />
  )
}

function overMachinesSaid(row: FindingRow, findings: Findings): Said {
  const over = findings.machines.find(
    (one) =>
      one.metric === row.metric &&
      one.method === row.method &&
      one.start === row.start &&
      one.facet === row.facet,
  )
  return over ? { headline: over.headline, says: over.sentence } : ofTheRow(row)
}

/** Every view of one row, in the order of the strip. */
export const ROW_VIEWS: readonly RowView[] = [
  { id: 'lanes', label: 'Lanes', isFor: () => true, said: ofTheRow, table: rowOwnTable, Shown: Lanes },
  { id: 'order', label: 'In order', isFor: () => true, said: ofTheRow, table: rowOwnTable, Shown: InOrder },
  {
    id: 'spread',
    label: 'Spread',
    isFor: () => true,
    said: ofTheRow,
    table: rowOwnTable,
    Shown: ({ row, columns, names, width }) => (
      <SpreadPicture row={row} columns={columns} names={names} width={width} />
    ),
  },
  {
    id: 'starts',
    label: 'Cold and warm',
    isFor: (row, rows) => startsOf(row, rows).length > 1,
    said: (row, findings) => ({
      headline: startsSaid(startsOf(row, findings.rows)),
      says: 'Cold and warm starts are different things: they are never pooled, and each has a verdict of its own.',
    }),
    table: ({ row, findings, names }) => startsTable(startsOf(row, findings.rows), names),
    Shown: ({ row, findings, columns, names, width }) => (
      <StartsPicture rows={startsOf(row, findings.rows)} columns={columns} names={names} width={width} />
    ),
  },
  {
    id: 'machines',
    label: 'Every machine',
    isFor: (row, rows) => onMachines(row, rows).length > 1,
    said: overMachinesSaid,
    table: ({ row, findings, names }) => machinesTable(onMachines(row, findings.rows), names),
    Shown: ({ row, findings, columns, names, width }) => (
      <MachinesPicture rows={onMachines(row, findings.rows)} columns={columns} names={names} width={width} />
    ),
  },
]
