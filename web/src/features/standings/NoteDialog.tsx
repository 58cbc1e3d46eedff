import TextField from '@mui/material/TextField'
import { useState } from 'react'

import { useNoteHours, useNoteIncident, type IncidentKind, type IncidentsPage } from '@/api/incidents'
import { freshId } from '@/ui/freshId'
import { TextLine } from '@/ui/TextLine'

import { NoteForm, Pick } from '@/ui/NoteForm'

const KINDS: readonly IncidentKind[] = ['crash', 'hang', 'update that broke something']

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
  const submit = () => {
    const body = { id, system, machine: machine || null, kind, what, at: new Date(at).toISOString() }
    note.mutate(body, { onSuccess: () => onNoted(id, `Noted: ${kind}`) })
  }
  return (
    <NoteForm
      title="Note an incident"
      error={note.error}
      isReady={system !== '' && at !== '' && !note.isPending}
      onClose={onClose}
      onSubmit={submit}
    >
      <Pick label="System" value={system} all={page.systems} onPick={setSystem} required />
      <Pick label="Machine" value={machine} all={page.machines} onPick={setMachine} />
      <Pick
        label="What happened"
        value={kind}
        none={null}
        all={KINDS.map((name) => ({ id: name, name }))}
        onPick={(name) => setKind(name as IncidentKind)}
      />
      <TextLine label="In a few words" value={what} onChange={setWhat} most={500} />
      <TextField
        size="small"
        type="datetime-local"
        label="When"
        value={at}
        onChange={(event) => setAt(event.target.value)}
        slotProps={{ inputLabel: { shrink: true } }}
      />
    </NoteForm>
  )
}

/** Notes for how long a system was in use. */
export function HoursDialog({ page, onClose, onNoted }: Props) {
  const note = useNoteHours()
  const [id] = useState(freshId)
  const [system, setSystem] = useState('')
  const [machine, setMachine] = useState('')
  const [hours, setHours] = useState('')
  const submit = () => {
    const body = { id, system, machine: machine || null, hours: Number(hours) }
    note.mutate(body, { onSuccess: () => onNoted(id, `Noted: ${hours} hours in use`) })
  }
  return (
    <NoteForm
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
    </NoteForm>
  )
}
