import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { useQuery } from '@tanstack/react-query'

import { studyHistoryQuery } from '@/api/corrections'
import type { Study } from '@/api/types'
import { ActLines } from '@/ui/ActLines'
import { Soft } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'

type Props = { study: Study; onClose: () => void }

/** What people did to a study, the newest first. */
export function HistoryDialog({ study, onClose }: Props) {
  const acts = useQuery(studyHistoryQuery(study.id))
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="history-title">
      <DialogTitle id="history-title" variant="h2">
        What was done to this study
      </DialogTitle>
      <DialogContent>
        {acts.isPending && <Loading what="what was done" />}
        {acts.error && <Failed error={acts.error} onRetry={() => void acts.refetch()} />}
        {acts.data?.length === 0 && <Soft as="p">Nobody has changed anything here yet.</Soft>}
        {acts.data && <ActLines acts={acts.data} />}
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={onClose} autoFocus>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  )
}
