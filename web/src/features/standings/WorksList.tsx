import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useState } from 'react'

import { fetchFile } from '@/api/files'
import type { ScorecardPage, Works } from '@/api/scorecards'
import { moment } from '@/format/numbers'
import { handOut } from '@/ui/keep'
import { Headline, Inset, LinkButton, Sheet, Soft } from '@/ui/kit'
import { Failed } from '@/ui/States'
import { TableCaption } from '@/ui/TableCaption'
import { Tag } from '@/ui/Tag'

const KINDS: Record<Works, string> = {
  works: 'ahead',
  'works after a step': 'note',
  'works sometimes': 'undecided',
  fails: 'behind',
  'not tried': 'level',
}
const FILES = [
  'seeds.txt',
  'fields.png',
  'tone.wav',
  'clip.webm',
  'ledger.pdf',
  'ledger.zip',
  'ledger.tar.gz',
]

type Props = { page: ScorecardPage; onTakeOut: (id: string) => void }

/** What works on a system, by machine, and what nobody tried. */
export function WorksList({ page, onTakeOut }: Props) {
  const [error, setError] = useState<Error | null>(null)
  const hand = (name: string) =>
    fetchFile(`/api/scorecards/files/${name}`).then((file) => handOut(name, file), setError)
  return (
    <Sheet as="section" aria-label="Works list" sx={{ mt: 1.25 }}>
      <Headline as="h2" sx={{ pt: 1.25, fontSize: 18 }}>
        What works
      </Headline>
      {page.works.length > 0 && (
        <TableContainer>
          <Table size="small">
            <TableCaption>What works</TableCaption>
            <TableHead>
              <TableRow>
                <TableCell>what</TableCell>
                <TableCell>machine</TableCell>
                <TableCell>seen</TableCell>
                <TableCell>note</TableCell>
                <TableCell />
              </TableRow>
            </TableHead>
            <TableBody>
              {page.works.map((line) => (
                <TableRow key={line.id}>
                  <TableCell>{line.subject}</TableCell>
                  <TableCell>{line.machine ?? <Soft>any</Soft>}</TableCell>
                  <TableCell>
                    <Tag kind={KINDS[line.works]} word={line.works} />{' '}
                    {line.says !== line.works && line.says.replace(`${line.works}: `, '')}
                    {line.low !== null && line.high !== null && (
                      <Soft>
                        {' '}
                        ({Math.round(100 * line.low)} to {Math.round(100 * line.high)} % of tries)
                      </Soft>
                    )}
                  </TableCell>
                  <TableCell>
                    {line.note} <Soft>{line.at && moment(line.at)}</Soft>
                  </TableCell>
                  <TableCell align="right">
                    <LinkButton
                      onClick={() => onTakeOut(line.id)}
                      aria-label={`Take out ${line.subject}${line.machine ? ` on ${line.machine}` : ''}`}
                    >
                      Take out
                    </LinkButton>
                  </TableCell>
                </TableRow>
              ))}
            </TableBody>
          </Table>
        </TableContainer>
      )}
      {page.untried.length > 0 && <Inset>Nobody tried: {page.untried.join(', ')}.</Inset>}
      <Inset className="noprint">
        Files of ours to open on the system:{' '}
        {FILES.map((name) => (
          <span key={name}>
            <LinkButton onClick={() => void hand(name)}>{name}</LinkButton>{' '}
          </span>
        ))}
        {error && <Failed error={error} />}
      </Inset>
    </Sheet>
  )
}
