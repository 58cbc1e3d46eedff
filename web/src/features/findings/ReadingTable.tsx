import TablePagination from '@mui/material/TablePagination'
import { useState } from 'react'

import type { FindingRow, ReadingColumns } from '@/api/types'
import { ofRow, type RowReading } from '@/charts/layout/rowReadings'
import { LaneSign } from '@/charts/marks/LaneMark'
import { amount } from '@/format/numbers'

import { ReadingEvidence } from './ReadingEvidence'

type Props = { row: FindingRow; columns: ReadingColumns; names: ReadonlyMap<number, string> }

export type ReadingLine = RowReading

const PAGE = 25

/** Every reading of the row in run order; each leads to its evidence. */
export function ReadingTable({ row, columns, names }: Props) {
  const [page, setPage] = useState(0)
  const [openId, setOpenId] = useState<string | null>(null)
  const lines: ReadingLine[] = ofRow(row, columns)
  const shown = lines.slice(page * PAGE, (page + 1) * PAGE)
  const open = lines.find((line) => line.id === openId)
  return (
    <div className="scroll">
      <table className="rows">
        <caption className="hidden">Readings of {row.label} in run order</caption>
        <thead>
          <tr>
            <th className="r">block</th>
            <th>contender</th>
            <th className="r">{row.label}</th>
            <th>set aside</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {shown.map((line) => (
            <tr key={line.id} className={line.setAside ? 'aside' : ''}>
              <td className="r">{line.block}</td>
              <td>
                <LaneSign laneNo={line.laneNo} />
                {names.get(line.laneNo)}
              </td>
              <td className="r">{amount(line.value, { ...row.scale, decimals: row.scale.decimals + 1 })}</td>
              <td className="keep">{line.setAside}</td>
              <td className="keep r">
                <button className="link" onClick={() => setOpenId(line.id)}>
                  Evidence
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {lines.length > PAGE && (
        <TablePagination
          component="div"
          count={lines.length}
          page={page}
          rowsPerPage={PAGE}
          rowsPerPageOptions={[PAGE]}
          onPageChange={(_, next) => setPage(next)}
        />
      )}
      {open && <ReadingEvidence line={open} row={row} name={names.get(open.laneNo) ?? ''} onClose={() => setOpenId(null)} />}
    </div>
  )
}
