import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import FormControlLabel from '@mui/material/FormControlLabel'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState, type FormEvent } from 'react'

import { installsQuery, proceduresQuery, useCreateStudy } from '@/api/queries'
import type { Install } from '@/api/types'
import { Soft, SoftSmall } from '@/ui/kit'

import { OutlookBox } from './OutlookBox'
import { planOf, type Plan } from './planForm'

const Pairs = styled('div')({
  display: 'grid',
  gridTemplateColumns: '1fr 1fr',
  gap: 16,
  '@media screen and (max-width:600px)': {
    gridTemplateColumns: '1fr',
    '& > *': { gridColumn: '1 !important' },
  },
})
const Group = styled('fieldset')({ border: '1px solid var(--hm-rule)', margin: 0, padding: '4px 12px 12px' })

const TYPED_MS = 250

type Props = { onClose: () => void; onDone: (id: string) => void }

/** Title, contenders, repeats, margins: what a study needs before its first run. */
export function NewStudyDialog({ onClose, onDone }: Props) {
  const installs = useQuery(installsQuery())
  const create = useCreateStudy()
  const [chosen, setChosen] = useState<readonly string[]>([])
  const [typed, setTyped] = useState(0)
  const runnable = (installs.data ?? []).filter((install) => install.rig !== null)

  const [plan, setPlan] = useState<Plan | null>(null)
  const form = useRef<HTMLFormElement>(null)
  useEffect(() => {
    const read = () => {
      const typed = form.current && planOf(new FormData(form.current), chosen)
      setPlan(typed?.installs.length && typed.procedures.length ? { ...typed, title: '', seed: null } : null)
    }
    const timer = setTimeout(read, TYPED_MS)
    return () => clearTimeout(timer)
  }, [chosen, typed])
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault()
    create.mutate(planOf(new FormData(event.currentTarget), chosen), {
      onSuccess: (study) => onDone(study.id),
    })
  }
  const toggle = (id: string) =>
    setChosen((now) => (now.includes(id) ? now.filter((item) => item !== id) : [...now, id]))
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="new-study-title">
      <form ref={form} onSubmit={submit} onChange={() => setTyped(typed + 1)}>
        <DialogTitle id="new-study-title" variant="h2">
          Plan a study
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <TextField
            name="title"
            label="The question"
            required
            autoFocus
            sx={{ mt: 1 }}
            placeholder="Which of the two boots sooner?"
          />
          <Contenders installs={runnable} chosen={chosen} onToggle={toggle} />
          <Procedures />
          <Pairs>
            <TextField
              name="blocks"
              label="Repeats (blocks)"
              type="number"
              defaultValue={10}
              slotProps={{ htmlInput: { min: 1, max: 500 } }}
            />
            <TextField
              name="seed"
              label="Seed (drawn if empty)"
              type="number"
              slotProps={{ htmlInput: { min: 0 } }}
            />
            <TextField
              name="seconds"
              label="Margin of boot times, s"
              helperText="The smallest difference that matters"
              type="number"
              defaultValue={0.5}
              slotProps={{ htmlInput: { min: 0.001, step: 'any' } }}
            />
            <TextField
              name="mib"
              label="Margin of memory, MiB"
              helperText="The smallest difference that matters"
              type="number"
              defaultValue={15}
              slotProps={{ htmlInput: { min: 0.001, step: 'any' } }}
            />
            <TextField
              name="looks"
              label="Read verdicts early, after blocks (empty: only at the end)"
              placeholder="10, 15, 20"
              sx={{ gridColumn: '1 / 3' }}
              helperText="Verdicts are then read after these blocks too; the allowed error is shared out over them"
            />
          </Pairs>
          <OutlookBox plan={plan} />
          {create.error && <Alert severity="error">{create.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={chosen.length < 1 || create.isPending}>
            {chosen.length < 1 ? 'Choose contenders' : 'Plan it'}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}

function Procedures() {
  const procedures = useQuery(proceduresQuery())
  return (
    <Group>
      <SoftSmall as="legend">What is done in each block</SoftSmall>
      {(procedures.data ?? [])
        .filter((one) => !one.names_application)
        .map((one, place) => (
          <FormControlLabel
            key={one.key}
            control={<Checkbox size="small" name="procedure" value={one.key} defaultChecked={place === 0} />}
            label={one.label}
          />
        ))}
      {procedures.error && <Alert severity="error">{procedures.error.message}</Alert>}
      <TextField
        name="launches"
        label="Launches of"
        placeholder="Coppicer, Wayfarrow"
        size="small"
        fullWidth
        helperText="Applications, separated by commas; each is started warm"
      />
    </Group>
  )
}

type ContendersProps = { installs: Install[]; chosen: readonly string[]; onToggle: (id: string) => void }

function Contenders({ installs, chosen, onToggle }: ContendersProps) {
  return (
    <Group>
      <SoftSmall as="legend">Contenders that can run by themselves</SoftSmall>
      {installs.length === 0 && <Soft as="p">None is known yet.</Soft>}
      {installs.map((install) => (
        <FormControlLabel
          key={install.id}
          sx={{ display: 'flex' }}
          control={
            <Checkbox
              size="small"
              checked={chosen.includes(install.id)}
              onChange={() => onToggle(install.id)}
            />
          }
          label={`${install.system.name} on ${install.machine.name}`}
        />
      ))}
    </Group>
  )
}
