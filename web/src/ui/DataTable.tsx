import MuiTable from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'

import type { Table } from '@/format/table'

import { TableCaption } from './TableCaption'

const shown = (value: string | number | null) =>
  typeof value === 'number' ? Number(value.toPrecision(6)) : (value ?? '')

/** What a picture shows, as a table. */
export const DataTable = ({ table }: { table: Table }) => (
  <TableContainer tabIndex={0} role="group" aria-label={table.caption} sx={{ maxHeight: '70vh' }}>
    <MuiTable stickyHeader>
      <TableCaption>{table.caption}</TableCaption>
      <TableHead>
        <TableRow>
          {table.head.map((name) => (
            <TableCell key={name}>{name}</TableCell>
          ))}
        </TableRow>
      </TableHead>
      <TableBody>
        {table.rows.map((row, i) => (
          <TableRow key={i}>
            {row.map((value, k) => (
              <TableCell key={table.head[k]} align={typeof value === 'number' ? 'right' : 'left'}>
                {shown(value)}
              </TableCell>
            ))}
          </TableRow>
        ))}
      </TableBody>
    </MuiTable>
  </TableContainer>
)
