import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TablePagination from '@mui/material/TablePagination'
import TableRow from '@mui/material/TableRow'
import { useEffect, useRef, useState, type KeyboardEvent } from 'react'

import { useSetAside } from '@/api/queries'
import type { FindingRow, ReadingColumns } from '@/api/types'
import { ofRow, type RowReading } from '@/charts/layout/rowReadings'
import { LaneSign } from '@/charts/marks/LaneMark'
import { amount } from '@/format/numbers'
import { LinkButton, SoftSmall } from '@/ui/kit'
import { TableCaption } from '@/ui/TableCaption'
import { UndoBar } from '@/ui/UndoBar'

import { ReadingEvidence } from './ReadingEvidence'

type Props = { row: FindingRow; columns: ReadingColumns; names: ReadonlyMap<number, string> }

const PAGE = 25
const STRUCK = {
  color: 'text.secondary',
  textDecoration: 'line-through',
  textDecorationColor: 'var(--hm-rust)',
}

/** Up and down walk through the rows; Enter opens the one that has the focus. */
function onRowKey(event: KeyboardEvent<HTMLTableRowElement>, open: () => void) {
  const beside = {
    ArrowDown: event.currentTarget.nextElementSibling,
    ArrowUp: event.currentTarget.previousElementSibling,
  }
  if (event.target !== event.currentTarget) return
  if (event.key === 'Enter') open()
  else if (event.key === 'ArrowDown' || event.key === 'ArrowUp')
    (beside[event.key] as HTMLElement | null)?.focus()
  else return
  event.preventDefault()
}

/** Every reading of the row in run order; each leads to its evidence. */
export function ReadingTable({ row, columns, names }: Props) {
  const [page, setPage] = useState(0)
  const [openId, setOpenId] = useState<string | null>(null)
  const [asideId, setAsideId] = useState<string | null>(null)
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    box.current?.scrollIntoView({ block: 'center' })
    box.current?.scrollTo({ top: 0 })
    box.current?.querySelector<HTMLElement>('tbody tr')?.focus({ preventScroll: true })
  }, [page])
  const lines = ofRow(row, columns)
  const open = lines.find((line) => line.id === openId)
  return (
    <>
      <TableContainer ref={box} sx={{ maxHeight: 420 }}>
        <Table stickyHeader>
          <TableCaption>Readings of {row.label} in run order</TableCaption>
          <TableHead>
            <TableRow>
              <TableCell align="right">block</TableCell>
              <TableCell>contender</TableCell>
              <TableCell align="right">{row.label}</TableCell>
              <TableCell>set aside, because</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {lines.slice(page * PAGE, (page + 1) * PAGE).map((line) => (
              <Line
                key={line.id}
                line={line}
                row={row}
                name={names.get(line.laneNo) ?? ''}
                onOpen={() => setOpenId(line.id)}
              />
            ))}
          </TableBody>
        </Table>
      </TableContainer>
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
      {open && (
        <ReadingEvidence
          line={open}
          row={row}
          name={names.get(open.laneNo) ?? ''}
          onClose={() => setOpenId(null)}
          onAside={() => setAsideId(open.id)}
        />
      )}
      <Undo id={asideId} onDone={() => setAsideId(null)} />
    </>
  )
}

type LineProps = { line: RowReading; row: FindingRow; name: string; onOpen: () => void }

function Line({ line, row, name, onOpen }: LineProps) {
  const struck = line.setAside === null ? {} : STRUCK
  return (
    <TableRow hover tabIndex={0} onKeyDown={(event) => onRowKey(event, onOpen)} onDoubleClick={onOpen}>
      <TableCell align="right" sx={struck}>
        {line.block}
      </TableCell>
      <TableCell sx={struck}>
        <LaneSign laneNo={line.laneNo} />
        {name}
      </TableCell>
      <TableCell align="right" sx={struck}>
        {amount(line.value, { ...row.scale, decimals: row.scale.decimals + 1 })}
        {line.valueBefore !== null && <SoftSmall> corrected</SoftSmall>}
      </TableCell>
      <TableCell sx={{ color: 'text.secondary' }}>{line.setAside}</TableCell>
      <TableCell align="right">
        <LinkButton onClick={onOpen}>Evidence</LinkButton>
      </TableCell>
    </TableRow>
  )
}

/** Takes back what was just set aside. */
function Undo({ id, onDone }: { id: string | null; onDone: () => void }) {
  const change = useSetAside()
  if (id === null) return null
  return (
    <UndoBar
      says="The reading is set aside."
      onUndo={() => change.mutate({ id, reason: null }, { onSuccess: onDone })}
      onDone={onDone}
    />
  )
}
