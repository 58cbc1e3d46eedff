import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { peopleQuery, usePairDevice } from '@/api/people'
import { moment } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, LinkButton, PanelTop, Sheet, Soft, WIDE } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'

import { AddPersonDialog } from './AddPersonDialog'
import { RevokeDialog } from './RevokeDialog'
import { PairingCode } from './PairingCode'
import { SecretDialog } from '@/ui/SecretDialog'
import { ROLES } from './words'

/** Everyone with a key, and the ways to let somebody in. */
export function PeopleList({ me }: { me: string }) {
  const people = useQuery(peopleQuery())
  const pair = usePairDevice()
  const [isAdding, setAdding] = useState(false)
  const [revoking, setRevoking] = useState<string | null>(null)
  useShortcuts([
    { key: 'n', says: 'Make a key for a person', run: () => setAdding(true) },
    { key: 'd', says: 'Pair a device', run: () => pair.mutate() },
  ])
  const error = people.error ?? pair.error
  return (
    <Sheet as="section">
      <PanelTop>
        <h2>Who may come in</h2>
        <Actions className="spread">
          <Button
            size="small"
            variant="outlined"
            color="inherit"
            onClick={() => pair.mutate()}
            disabled={pair.isPending}
          >
            Pair a device
            <KeyHint name="D" />
          </Button>
          <Button size="small" variant="contained" onClick={() => setAdding(true)}>
            Make a key
            <KeyHint name="N" />
          </Button>
        </Actions>
      </PanelTop>
      {people.isPending && <Loading what="the people" />}
      {error && <Failed error={error} />}
      <TableContainer>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>Person</TableCell>
              <TableCell>Role</TableCell>
              <TableCell align="right">Keys that hold</TableCell>
              <TableCell sx={WIDE}>Since</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {people.data?.map((person) => (
              <TableRow key={person.name}>
                <TableCell>
                  <b>{person.name}</b>
                </TableCell>
                <TableCell>
                  {person.role} <Soft>{ROLES[person.role]}</Soft>
                </TableCell>
                <TableCell align="right">{person.keys}</TableCell>
                <TableCell sx={WIDE}>{moment(person.made_at)}</TableCell>
                <TableCell align="right">
                  <LinkButton
                    onClick={() => setRevoking(person.name)}
                    aria-label={`Revoke every key and session of ${person.name}`}
                  >
                    Revoke
                  </LinkButton>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </TableContainer>
      {revoking !== null && (
        <RevokeDialog name={revoking} isMe={revoking === me} onClose={() => setRevoking(null)} />
      )}
      {isAdding && <AddPersonDialog onClose={() => setAdding(false)} />}
      {pair.data && (
        <SecretDialog title="Pair a device" secret={pair.data.code} onClose={() => pair.reset()}>
          <p>
            Open this server’s address on the device and type the code there within {pair.data.minutes}{' '}
            minutes. It may then look, and do what belongs to a run at the machine: note a disturbance, skip,
            stop, plan again, and what is timed, read and photographed there.
          </p>
          {pair.data.address ? (
            <PairingCode address={pair.data.address} pin={pair.data.pin} />
          ) : (
            <Soft as="p">
              This server answers on this computer only, so that no device can reach it:{' '}
              <code>./haremile serve --listen ADDRESS</code> with an address of this computer lets it.
            </Soft>
          )}
          <Soft as="p">
            Without encryption what the device sends can be overheard by others on the network; it says so
            itself.
          </Soft>
        </SecretDialog>
      )}
    </Sheet>
  )
}
