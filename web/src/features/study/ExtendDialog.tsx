import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import type { FormEvent } from 'react'

import { useExtendStudy } from '@/api/queries'
import type { Study } from '@/api/types'
import { Soft } from '@/ui/kit'

/** More blocks after the plan is done, with what that costs. */
export function ExtendDialog({ study, onClose }: { study: Study; onClose: () => void }) {
  const extend = useExtendStudy(study.id)
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault()
    const blocks = Number(new FormData(event.currentTarget).get('blocks'))
    extend.mutate(blocks, { onSuccess: onClose })
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="extend-title">
      <form onSubmit={submit}>
        <DialogTitle id="extend-title" variant="h2">
          Add repeats to a finished plan
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            Going on until something is decided finds differences that are not there. So an extension spends
            half the error of the reading before it, and what it decides is marked <b>extended</b>.
          </Soft>
          <TextField
            name="blocks"
            label={`Repeats of each, after the ${study.blocks} planned`}
            type="number"
            required
            autoFocus
            defaultValue={10}
            slotProps={{ htmlInput: { min: 1, max: 500 } }}
          />
          {extend.error && <Alert severity="error">{extend.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={extend.isPending}>
            Add them
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
