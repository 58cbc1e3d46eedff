import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'

import { scorecardsQuery, type ScorecardList } from '@/api/scorecards'
import { moment } from '@/format/numbers'
import { Main, Sheet, Soft, TitleBar, WIDE } from '@/ui/kit'
import { Empty, Failed, Loading } from '@/ui/States'
import { TableCaption } from '@/ui/TableCaption'
import { useShortcuts } from '@/ui/shortcuts'

import { Views } from './Views'

type Line = ScorecardList['lines'][number]

/** All systems with what testers say of them. */
export function ScorecardsPage() {
  const found = useQuery(scorecardsQuery())
  const navigate = useNavigate()
  useShortcuts(
    (found.data?.lines ?? []).slice(0, 9).map((line, i) => ({
      key: String(i + 1),
      says: `Scorecard of ${line.system}`,
      run: () => void navigate(`/standings/scorecards/${line.system_id}`),
    })),
  )
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Scorecards</h1>
          <Soft as="div">what a tester gives a system, and what works on it; never part of a verdict</Soft>
          <Views />
        </div>
      </TitleBar>
      {found.isPending && <Loading what="the scorecards" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {found.data?.lines.length === 0 && (
        <Empty title="No system is known yet">
          A scorecard is written for a system of the library: note one there, or measure one.
        </Empty>
      )}
      {found.data && found.data.lines.length > 0 && <Lines lines={found.data.lines} />}
    </Main>
  )
}

const Lines = ({ lines }: { lines: readonly Line[] }) => (
  <Sheet as="section" aria-label="Scorecards" sx={{ mt: 1.25 }}>
    <TableContainer>
      <Table size="small">
        <TableCaption>Scorecards</TableCaption>
        <TableHead>
          <TableRow>
            <TableCell>system</TableCell>
            <TableCell>overall score</TableCell>
            <TableCell>in words</TableCell>
            <TableCell align="right">works, of what was tried</TableCell>
            <TableCell sx={WIDE}>version</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {lines.map((line) => (
            <TableRow key={line.system_id}>
              <TableCell>
                <Link to={`/standings/scorecards/${line.system_id}`}>{line.system}</Link>
              </TableCell>
              <TableCell>
                <b>{line.overall ?? (line.version === null ? '' : 'not all criteria are judged')}</b>
              </TableCell>
              <TableCell>{line.word}</TableCell>
              <TableCell align="right">{line.tried > 0 && `${line.works} of ${line.tried}`}</TableCell>
              <TableCell sx={WIDE}>
                {line.version === null ? <Soft>no card yet</Soft> : `${line.version}, ${moment(line.at!)}`}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
    </TableContainer>
  </Sheet>
)
