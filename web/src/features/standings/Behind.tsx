import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { Link } from 'react-router'

import type { StandingLine, StandingsPage } from '@/api/standings'
import { amount, count, moment } from '@/format/numbers'
import { LinkButton, PanelTop, Soft } from '@/ui/kit'
import { TableCaption } from '@/ui/TableCaption'

type Props = { page: StandingsPage; line: StandingLine; onClose: () => void }

/** The studies behind one place, each leading to its readings. */
export function Behind({ page, line, onClose }: Props) {
  const scale = page.scale!
  const { standing } = line
  const leader = page.lines[0]!.standing
  return (
    <section
      aria-label={`Behind the place of ${standing.system}`}
      key={standing.system}
      ref={(box) => box?.scrollIntoView({ block: 'nearest' })}
    >
      <PanelTop>
        <h2>{standing.system}</h2>
        <Soft>{overLeader(standing, leader.system)}</Soft>
        {line.system && <Link to={`/library/systems/${line.system}`}>In the library</Link>}
        <LinkButton className="spread" onClick={onClose}>
          Close
        </LinkButton>
      </PanelTop>
      <TableContainer>
        <Table size="small">
          <TableCaption>Studies behind this place</TableCaption>
          <TableHead>
            <TableRow>
              <TableCell>study</TableCell>
              <TableCell>machine</TableCell>
              <TableCell align="right">median</TableCell>
              <TableCell align="right">readings</TableCell>
              <TableCell align="right">failed</TableCell>
              <TableCell>last run</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {line.measured.map((one) => (
              <TableRow key={`${one.study} ${one.machine}`}>
                <TableCell>
                  <Link
                    to={`/studies/${one.study}/findings?row=${encodeURIComponent(one.row)}&readings=shown`}
                  >
                    {one.title}
                  </Link>
                </TableCell>
                <TableCell>{one.machine}</TableCell>
                <TableCell align="right">{amount(one.median, scale)}</TableCell>
                <TableCell align="right">{one.readings}</TableCell>
                <TableCell align="right">{one.failed ? `${one.failed} of ${one.runs}` : 'none'}</TableCell>
                <TableCell>{moment(one.newest)}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </TableContainer>
    </section>
  )
}

type Standing = StandingLine['standing']

const share = (ratio: number) => `${ratio >= 1 ? '+' : '−'}${Math.abs(100 * (ratio - 1)).toFixed(1)} %`

/** How far it is from the first, and by what that is known. */
function overLeader(standing: Standing, leader: string): string {
  if (standing.system === leader) return `first of the list; decidedly ahead of ${standing.ahead_of.length}`
  const range = standing.behind_leader
    ? ` (${share(standing.behind_leader.low)} to ${share(standing.behind_leader.high)})`
    : ', not to be told from these studies'
  const met = standing.met_leader
    ? `side by side in ${count(standing.met_leader, 'study', 'studies')}`
    : 'through others only'
  return `${share(standing.over_leader)} against ${leader}${range}; ${met}`
}
