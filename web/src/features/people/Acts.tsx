import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { auditQuery } from '@/api/people'
import { actFacts, actWords } from '@/format/acts'
import { moment } from '@/format/numbers'
import { Foot, PanelTop, Sheet, Soft, SoftSmall } from '@/ui/kit'
import { Empty, Failed, Loading } from '@/ui/States'

const PAGE = 200
const Below = styled('div')({ marginTop: 14 })

/** What was done and by whom, the newest first. Nothing here can be changed. */
export function Acts() {
  const [before, setBefore] = useState<number | null>(null)
  const acts = useQuery(auditQuery(before))
  if (acts.isPending) return <Loading what="what was done" />
  if (acts.error) return <Failed error={acts.error} onRetry={() => void acts.refetch()} />
  if (!acts.data.length && before === null) {
    return (
      <Below>
        <Empty title="Nobody has changed anything yet.">
          <p>
            Who plans, sets aside, overrides or makes a key is written down here, with what stood there
            before.
          </p>
        </Empty>
      </Below>
    )
  }
  return (
    <Sheet as="section" sx={{ mt: 1.75 }}>
      <PanelTop>
        <h2>What was done</h2>
        <Soft>the newest first</Soft>
      </PanelTop>
      <TableContainer>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>When</TableCell>
              <TableCell>Who</TableCell>
              <TableCell>What</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {acts.data.map((act) => (
              <TableRow key={act.id}>
                <TableCell sx={{ whiteSpace: 'nowrap', fontVariantNumeric: 'tabular-nums' }}>
                  {moment(act.at)}
                </TableCell>
                <TableCell>
                  {act.who}
                  <SoftSmall as="div">{act.way}</SoftSmall>
                </TableCell>
                <TableCell>
                  {act.study_id ? (
                    <Link to={`/studies/${act.study_id}/run`}>{actWords(act.what)}</Link>
                  ) : (
                    actWords(act.what)
                  )}
                  <SoftSmall as="div">{actFacts(act.facts)}</SoftSmall>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </TableContainer>
      <Foot>
        {before !== null && (
          <Button size="small" color="inherit" onClick={() => setBefore(null)}>
            Newest
          </Button>
        )}
        {acts.data.length === PAGE && (
          <Button size="small" color="inherit" onClick={() => setBefore(acts.data.at(-1)!.id)}>
            Older
          </Button>
        )}
      </Foot>
    </Sheet>
  )
}
