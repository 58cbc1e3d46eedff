import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent, type ReactNode } from 'react'

import { useNoteHours, useNoteIncident, type IncidentKind, type IncidentsPage } from '@/api/incidents'
import { freshId } from '@/ui/freshId'
import { TextLine } from '@/ui/TextLine'

const KINDS: readonly IncidentKind[] = ['crash', 'hang', 'update that broke something']

type Named = IncidentsPage['systems'][number]
type Props = { page: IncidentsPage; onClose: () => void; onNoted: (id: string, says: string) => void }

/** The instant as a field of the browser holds it: local, to the minute. */
const localNow = () => {
  const now = new Date()
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 16)
}

/** Notes what went wrong: two presses and a choice on a phone. */
export function IncidentDialog({ page, onClose, onNoted }: Props) {
  const note = useNoteIncident()
  const [id] = useState(freshId)
  const [system, setSystem] = useState('')
  const [machine, setMachine] = useState('')
  const [kind, setKind] = useState<IncidentKind>('crash')
  const [what, setWhat] = useState('')
  const [at, setAt] = useState(localNow)
  const submit = (event: FormEvent) => {
    event.preventDefault()
    const body = { id, system, machine: machine || null, kind, what, at: new Date(at).toISOString() }
    note.mutate(body, { onSuccess: () => onNoted(id, `Noted: ${kind}`) })
  }
  return (
    <Frame
      title="Note an incident"
      error={note.error}
      isReady={system !== '' && at !== '' && !note.isPending}
      onClose={onClose}
      onSubmit={submit}
    >
      <Pick label="System" value={system} all={page.systems} onPick={setSystem} required />
      <Pick label="Machine" value={machine} all={page.machines} onPick={setMachine} />
      <TextField
        select
        size="small"
        label="What happened"
        value={kind}
        onChange={(event) => setKind(event.target.value as IncidentKind)}
        slotProps={{ select: { native: true } }}
      >
        {KINDS.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </TextField>
      <TextLine label="In a few words" value={what} onChange={setWhat} most={500} />
      <TextField
        size="small"
        type="datetime-local"
        label="When"
        value={at}
        onChange={(event) => setAt(event.target.value)}
        slotProps={{ inputLabel: { shrink: true } }}
      />
    </Frame>
  )
}

/** Notes for how long a system was in use. */
export function HoursDialog({ page, onClose, onNoted }: Props) {
  const note = useNoteHours()
  const [id] = useState(freshId)
  const [system, setSystem] = useState('')
  const [machine, setMachine] = useState('')
  const [hours, setHours] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    const body = { id, system, machine: machine || null, hours: Number(hours) }
    note.mutate(body, { onSuccess: () => onNoted(id, `Noted: ${hours} hours in use`) })
  }
  return (
    <Frame
      title="Note hours in use"
      error={note.error}
      isReady={system !== '' && Number(hours) > 0 && !note.isPending}
      onClose={onClose}
      onSubmit={submit}
    >
      <Pick label="System" value={system} all={page.systems} onPick={setSystem} required />
      <Pick label="Machine" value={machine} all={page.machines} onPick={setMachine} />
      <TextField
        size="small"
        type="number"
        label="Hours"
        value={hours}
        required
        onChange={(event) => setHours(event.target.value)}
        slotProps={{ htmlInput: { min: 0, max: 1e6, step: 'any' } }}
      />
    </Frame>
  )
}

type FrameProps = {
  title: string
  error: Error | null
  isReady: boolean
  onClose: () => void
  onSubmit: (event: FormEvent) => void
  children: ReactNode
}

const Frame = ({ title, error, isReady, onClose, onSubmit, children }: FrameProps) => (
  <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="note-title">
    <form onSubmit={onSubmit}>
      <DialogTitle id="note-title" variant="h2">
        {title}
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, '&&': { pt: 1 } }}>
        {children}
        {error && <Alert severity="error">{error.message}</Alert>}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Cancel
        </Button>
        <Button type="submit" variant="contained" disabled={!isReady}>
          Note it
        </Button>
      </DialogActions>
    </form>
  </Dialog>
)

type PickProps = {
  label: string
  value: string
  all: readonly Named[]
  onPick: (id: string) => void
  required?: boolean
}

const Pick = ({ label, value, all, onPick, required }: PickProps) => (
  <TextField
    select
    size="small"
    label={label}
    value={value}
    required={required}
    onChange={(event) => onPick(event.target.value)}
    slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
  >
    <option value="">{required ? 'choose' : 'not stated'}</option>
    {all.map((one) => (
      <option key={one.id} value={one.id}>
        {one.name}
      </option>
    ))}
  </TextField>
)
