import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useQuery } from '@tanstack/react-query'

import { sessionsQuery, useRevokeSession } from '@/api/people'
import { moment } from '@/format/numbers'
import { LinkButton, PanelTop, Sheet, Soft, WIDE } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'

import { browserName } from './words'

/** Browsers that are signed in; each can be signed out from here, which ends its open pages too. */
export function SessionList() {
  const sessions = useQuery(sessionsQuery())
  const revoke = useRevokeSession()
  return (
    <Sheet as="section">
      <PanelTop>
        <h2>Signed-in browsers</h2>
      </PanelTop>
      {sessions.isPending && <Loading what="the sessions" />}
      {(sessions.error ?? revoke.error) && <Failed error={(sessions.error ?? revoke.error)!} />}
      <TableContainer>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>Browser</TableCell>
              <TableCell>Person</TableCell>
              <TableCell>Last seen</TableCell>
              <TableCell sx={WIDE}>Ends</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {sessions.data?.map((session) => (
              <TableRow key={session.id} selected={session.is_this}>
                <TableCell title={session.agent}>
                  {browserName(session.agent)}
                  {session.is_this && <b>, this one</b>}
                  {session.way === 'paired device' && <Soft>, paired</Soft>}
                </TableCell>
                <TableCell>{session.person}</TableCell>
                <TableCell>{moment(session.seen_at)}</TableCell>
                <TableCell sx={WIDE}>{moment(session.expires_at)}</TableCell>
                <TableCell align="right">
                  {!session.is_this && (
                    <LinkButton
                      onClick={() => revoke.mutate(session.id)}
                      aria-label={`Sign out ${browserName(session.agent)} of ${session.person}`}
                    >
                      Sign out
                    </LinkButton>
                  )}
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </TableContainer>
    </Sheet>
  )
}
