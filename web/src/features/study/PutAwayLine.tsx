import Button from '@mui/material/Button'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { useChangeStudy, useDeleteStudy } from '@/api/corrections'
import type { Study } from '@/api/types'
import { Actions, Box } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'

/** That a study is in no list, and the two ways on: back, or gone for good. */
export function PutAwayLine({ study }: { study: Study }) {
  const change = useChangeStudy(study.id)
  const gone = useDeleteStudy(study.id)
  const navigate = useNavigate()
  const [isAsking, setAsking] = useState(false)
  const remove = (title: string) =>
    gone.mutate(study.title ? title : '', { onSuccess: () => void navigate('/studies', { replace: true }) })
  return (
    <Box role="status" sx={{ my: 1, display: 'flex', flexWrap: 'wrap', gap: 1.25, alignItems: 'center' }}>
      <span>This study is put away: it stands in no list, and nothing of it is lost.</span>
      <Actions className="spread">
        <Button
          variant="outlined"
          color="inherit"
          size="small"
          disabled={change.isPending}
          onClick={() => change.mutate({ is_put_away: false })}
        >
          Bring back
        </Button>
        <Button variant="outlined" color="inherit" size="small" onClick={() => setAsking(true)}>
          Delete for good
        </Button>
      </Actions>
      {isAsking && (
        <LineDialog
          title="Delete this study for good"
          label={`Type ${study.title ? `its title again: ${study.title}` : 'delete'}`}
          only={study.title || 'delete'}
          action="Delete for good"
          error={gone.error}
          isPending={gone.isPending}
          onClose={() => setAsking(false)}
          onSay={remove}
        >
          Its plan, its runs, its readings and their evidence go, and cannot be brought back. Evidence that
          another study holds stays.
        </LineDialog>
      )}
    </Box>
  )
}
