import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'
import { useNavigate } from 'react-router'

import { outlookQuery, useStartStudy } from '@/api/plan'
import type { Study } from '@/api/types'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, Box, MIDDLE, SoftSmall, Stack } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'

import { Contenders } from './Contenders'
import { missing } from './draft'
import { FairStartBox } from './FairStartBox'
import { Margins } from './Margins'
import { More } from './More'
import { Notes } from './Notes'
import { CostBox, OutlookBox } from './Outlook'
import { Procedures } from './Procedures'
import { Repeats } from './Repeats'
import { useDraft } from './useDraft'

const Two = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0,1fr) minmax(0,1fr)',
  gap: 14,
  marginTop: 12,
  alignItems: 'start',
  [MIDDLE]: { gridTemplateColumns: 'minmax(0,1fr)' },
})
const Bar = styled(Actions)({ alignItems: 'center', marginTop: 10 })

/** A study before its first run: what is typed is kept, and told at once what it will tell. */
export function DraftPage({ study }: { study: Study }) {
  const { draft, change, says, flush, isFailing } = useDraft(study)
  const asked = useDeferredValue(draft)
  const found = useQuery(outlookQuery(asked))
  const start = useStartStudy(study.id)
  const navigate = useNavigate()
  const [isAsked, setAsked] = useState(false)
  const open = missing(draft)
  const begin = () => {
    setAsked(true)
    if (open.length) return
    // this page goes away as soon as the study is no draft any more, and what waits on it with it
    void flush()
      .then(() => start.mutateAsync(undefined))
      .then(() => navigate(`/studies/${study.id}/run`))
      .catch(() => undefined) // told beside the button
  }
  useShortcuts([{ key: 'p', says: 'Start the study', run: begin }])
  const lines = found.data?.lines ?? []
  const known = draft.installs.length && draft.procedures.length ? lines : []
  return (
    <>
      <Bar>
        <Button variant="contained" onClick={begin} disabled={start.isPending}>
          Start
          <KeyHint name="P" />
        </Button>
        <SoftSmall role="status" aria-label="Whether it is kept">
          draft, {says}
        </SoftSmall>
      </Bar>
      {isFailing && <Alert severity="warning">{says}</Alert>}
      {isAsked && open.length > 0 && (
        <Alert severity="warning">Before it can start it still needs {open.join(', ')}.</Alert>
      )}
      {start.error && <Alert severity="error">{start.error.message}</Alert>}
      <Two>
        <Stack>
          <Box>
            <TextField
              fullWidth
              label="The question"
              placeholder="Which of the two boots sooner?"
              helperText="What the study is to answer; it is its title everywhere."
              autoFocus={!study.title}
              defaultValue={draft.title}
              onChange={(event) => change({ title: event.target.value })}
              slotProps={{ htmlInput: { maxLength: 200 } }}
            />
          </Box>
          <Contenders draft={draft} onChange={change} />
          <Procedures draft={draft} onChange={change} />
          <Repeats draft={draft} onChange={change} />
          <Margins draft={draft} lines={known} onChange={change} />
          <More draft={draft} lines={known} outlook={found.data} onChange={change} />
        </Stack>
        <Stack>
          <OutlookBox draft={draft} found={found} />
          <CostBox draft={draft} found={found} />
          <FairStartBox draft={draft} fair={found.data?.fair} onChange={change} />
          <Notes study={study} />
        </Stack>
      </Two>
    </>
  )
}
