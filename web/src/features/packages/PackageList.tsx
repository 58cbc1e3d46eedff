import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableRow from '@mui/material/TableRow'

import type { PackageTaken } from '@/api/packages'
import { count } from '@/format/numbers'
import { Foot, Headline, Inset, Sheet } from '@/ui/kit'
import { Select } from '@/ui/Select'
import { TableCaption } from '@/ui/TableCaption'

type Props = {
  found: PackageTaken
  renamed: readonly string[]
  isTheirs: boolean
  isBusy: boolean
  onRename: (all: readonly string[]) => void
  onTheirs: (isTheirs: boolean) => void
  onTake: () => void
}

/** What a package would bring, and what has to be said before. */
export function PackageList({ found, renamed, isTheirs, isBusy, onRename, onTheirs, onTake }: Props) {
  const isNothing = found.rows === 0 && found.differing.length === 0
  return (
    <Sheet as="section" aria-label="What the package would bring">
      <Headline sx={{ pt: 1.25 }}>
        {isNothing
          ? 'All of it is here already'
          : `${count(found.rows, 'row')} more, from ${found.is_own ? 'this very bench book' : found.origin_name || 'another bench book'}`}
      </Headline>
      <Foot>
        <Button variant="contained" disabled={isBusy || isNothing} onClick={onTake}>
          {isBusy ? 'Taking it in …' : isNothing ? 'Nothing to take in' : 'Take it in'}
        </Button>
      </Foot>
      <Table size="small">
        <TableCaption>Studies of the package</TableCaption>
        <TableBody>
          {found.studies.map((one) => (
            <TableRow key={one.id}>
              <TableCell>{one.title || 'a draft'}</TableCell>
              <TableCell>{one.what}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      {found.names.length > 0 && (
        <Inset as="div">
          These names are here already, of something else:
          <ul>
            {found.names.map((one) => (
              <li key={one.id}>
                <label>
                  {one.noun} {one.name} is{' '}
                  <Select
                    value={renamed.includes(one.id) ? 'other' : 'same'}
                    onChange={(event) =>
                      onRename(
                        event.target.value === 'other'
                          ? [...renamed, one.id]
                          : renamed.filter((id) => id !== one.id),
                      )
                    }
                  >
                    <option value="same">the same one</option>
                    <option value="other">another one: give it another name</option>
                  </Select>
                </label>
              </li>
            ))}
          </ul>
        </Inset>
      )}
      {found.differing.length > 0 && (
        <Inset as="div">
          {count(found.differing.length, 'thing')} said otherwise there:
          <ul>
            {found.differing.map((one, i) => (
              <li key={i}>
                {one.table} {one.name}: {one.columns.join(', ')}
              </li>
            ))}
          </ul>
          <FormControlLabel
            control={<Checkbox checked={isTheirs} onChange={(_, is) => onTheirs(is)} />}
            label="Let the package hold for these; else what is here stays"
          />
        </Inset>
      )}
      {found.commands.length > 0 && (
        <Inset>
          {count(found.commands.length, 'install')} with commands, which will wait until you approve them.
        </Inset>
      )}
    </Sheet>
  )
}
