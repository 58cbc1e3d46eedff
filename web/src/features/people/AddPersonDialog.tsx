import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import FormControlLabel from '@mui/material/FormControlLabel'
import Radio from '@mui/material/Radio'
import RadioGroup from '@mui/material/RadioGroup'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { useAddPerson } from '@/api/people'
import type { Schemas } from '@/api/types'

import { SecretDialog } from '@/ui/SecretDialog'
import { ROLES } from './words'

type Role = Schemas['Role']

/** A name and a role make a key, which is then shown once. */
export function AddPersonDialog({ onClose }: { onClose: () => void }) {
  const add = useAddPerson()
  const [name, setName] = useState('')
  const [role, setRole] = useState<Role>('work')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    add.mutate({ name, role })
  }
  if (add.data) {
    return (
      <SecretDialog title={`The key of ${add.data.name}`} secret={add.data.key} onClose={onClose}>
        <p>
          It is shown this once. Whoever has it signs in with it on this server’s page, or sends it as
          “Authorization: Bearer”.
        </p>
      </SecretDialog>
    )
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="person-title">
      <form onSubmit={submit}>
        <DialogTitle id="person-title" variant="h2">
          Make a key
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <TextField
            label="Person"
            required
            autoFocus
            sx={{ mt: 1 }}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <RadioGroup
            aria-label="Role"
            value={role}
            onChange={(event) => setRole(event.target.value as Role)}
          >
            {(Object.keys(ROLES) as Role[]).map((one) => (
              <FormControlLabel
                key={one}
                value={one}
                control={<Radio size="small" />}
                label={`${one}: ${ROLES[one]}`}
              />
            ))}
          </RadioGroup>
          {add.error && <Alert severity="error">{add.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={!name.trim() || add.isPending}>
            Make the key
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
