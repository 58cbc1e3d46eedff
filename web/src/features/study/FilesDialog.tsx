import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useQuery } from '@tanstack/react-query'

import { filesQuery, useChangeFile } from '@/api/corrections'
import type { Schemas, Study } from '@/api/types'
import { moment } from '@/format/numbers'
import { LinkButton, Soft, SoftSmall } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'

type Props = { study: Study; onClose: () => void }

const KINDS: Record<string, string> = { 'readings-csv': 'readings file' }

/** What was brought into a study; each can be put away with all its runs, and brought back. */
export function FilesDialog({ study, onClose }: Props) {
  const files = useQuery(filesQuery(study.id))
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="files-title">
      <DialogTitle id="files-title" variant="h2">
        Files brought into this study
      </DialogTitle>
      <DialogContent>
        <Soft as="p" sx={{ mt: 0 }}>
          What is put away counts nowhere; its runs stay in the sheet, and it can be brought back.
        </Soft>
        {files.isPending && <Loading what="the files" />}
        {files.error && <Failed error={files.error} onRetry={() => void files.refetch()} />}
        {files.data?.length === 0 && <p>None: all readings of this study were measured here.</p>}
        {files.data && files.data.length > 0 && <FileTable study={study} files={files.data} />}
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={onClose} autoFocus>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  )
}

function FileTable({ study, files }: { study: Study; files: readonly Schemas['BroughtFile'][] }) {
  const change = useChangeFile(study.id)
  return (
    <>
      <TableContainer>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>Brought in</TableCell>
              <TableCell>What</TableCell>
              <TableCell align="right">Runs</TableCell>
              <TableCell align="right">Readings</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {files.map((file) => (
              <TableRow key={file.id}>
                <TableCell>{moment(file.brought_at)}</TableCell>
                <TableCell>
                  {KINDS[file.kind] ?? 'capture'}
                  <SoftSmall as="div">sha256 {file.sha256.slice(0, 12)} …</SoftSmall>
                </TableCell>
                <TableCell align="right">{file.runs}</TableCell>
                <TableCell align="right">{file.readings}</TableCell>
                <TableCell align="right">
                  <LinkButton onClick={() => change.mutate({ file: file.id, isPutAway: !file.put_away_at })}>
                    {file.put_away_at ? 'Bring back' : 'Put away'}
                  </LinkButton>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </TableContainer>
      {change.error && <Alert severity="error">{change.error.message}</Alert>}
    </>
  )
}
