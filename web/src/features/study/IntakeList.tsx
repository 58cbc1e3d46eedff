import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'

import type { Contender, IntakeItem } from '@/api/types'
import { count, moment } from '@/format/numbers'
import { Small, Soft, SoftSmall } from '@/ui/kit'

import { Select } from '@/ui/Select'

import { needsLane, NEW_CONTENDER } from './intakeLanes'

/** On a phone each line is a block of its own. */
const NARROW_TABLE = {
  '@media screen and (max-width:600px)': {
    '&, & tbody, & tr, & td': { display: 'block' },
    '& thead': { display: 'none' },
    '& td': { border: 0, padding: '2px 0' },
    '& tr': { borderBottom: '1px solid var(--hm-rule)', padding: '8px 0' },
    '& select': { width: '100%' },
  },
} as const

type Props = {
  items: readonly IntakeItem[]
  contenders: readonly Contender[]
  chosen: Readonly<Record<number, number>>
  onChoose: (place: number, lane: number) => void
}

/** What was recognised, one line each, with the contender that it will count for. */
export function IntakeList({ items, contenders, chosen, onChoose }: Props) {
  return (
    <Table sx={NARROW_TABLE}>
      <TableHead>
        <TableRow>
          <TableCell>What it is</TableCell>
          <TableCell>Of</TableCell>
          <TableCell>Counts for</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {items.map((item, place) => (
          <TableRow key={place}>
            <TableCell>
              <b>{item.asked}</b>, {count(item.readings, 'reading')}
              <SoftSmall as="div">
                {[item.file, item.made_at && moment(item.made_at)].filter(Boolean).join(' · ')}
              </SoftSmall>
            </TableCell>
            <TableCell>
              {item.system} on {item.machine}
              <Note item={item} />
            </TableCell>
            <TableCell>
              {needsLane(item) ? (
                <Select
                  inputProps={{ 'aria-label': `Contender of ${item.file}` }}
                  value={chosen[place] ?? item.lane_no ?? ''}
                  onChange={(event) => onChoose(place, Number(event.target.value))}
                >
                  <option value="" disabled>
                    none fits: choose
                  </option>
                  {contenders.map((contender) => (
                    <option key={contender.id} value={contender.lane_no}>
                      {contender.label}
                    </option>
                  ))}
                  {item.strangers.length > 0 && (
                    <option value={NEW_CONTENDER}>{item.strangers.join(', ')}, as a new contender</option>
                  )}
                </Select>
              ) : item.strangers.length > 0 && !item.is_known ? (
                <FormControlLabel
                  control={
                    <Checkbox
                      size="small"
                      checked={chosen[place] === NEW_CONTENDER}
                      onChange={(event) => onChoose(place, event.target.checked ? NEW_CONTENDER : 0)}
                    />
                  }
                  label={`${item.strangers.join(', ')}: let join as a new contender`}
                />
              ) : (
                <Soft>{item.is_known ? 'here already' : 'as the file says'}</Soft>
              )}
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  )
}

function Note({ item }: { item: IntakeItem }) {
  if (item.notes.length) return <Small as="div">{item.notes.join(' ')}</Small>
  if (item.reason) return <Small as="div">failed: {item.reason}</Small>
  if (!item.faults.length) return null
  return (
    <SoftSmall as="details">
      <summary>{count(item.faults.length, 'thing')} it could not read</summary>
      {item.faults.map((fault) => (
        <div key={fault}>{fault}</div>
      ))}
    </SoftSmall>
  )
}
