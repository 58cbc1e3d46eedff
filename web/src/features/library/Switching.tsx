import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useState } from 'react'

import { useStateSwitching } from '@/api/machines'
import type { Install } from '@/api/types'
import { Actions, SoftSmall } from '@/ui/kit'
import { Select } from '@/ui/Select'

const WAYS = [
  { value: 'none', label: 'it is the only one' },
  { value: 'next-entry', label: 'by a boot entry, by itself' },
  { value: 'disk-swap', label: 'a person swaps the disk' },
  { value: 'reinstall', label: 'a person installs it anew' },
]

/** How an enrolled machine comes into this install; with a person's hand in it, studies go in visits. */
export function Switching({ install }: { install: Install }) {
  const state = useStateSwitching()
  const [way, setWay] = useState(install.recipe.switching ?? 'none')
  const [entry, setEntry] = useState(install.recipe.entry ?? '')
  const isByEntry = way === 'next-entry'
  return (
    <Actions sx={{ alignItems: 'center', mt: 0.5 }}>
      <SoftSmall>Comes up </SoftSmall>
      <Select
        value={way}
        inputProps={{ 'aria-label': `How ${install.system.name} comes up` }}
        onChange={(event) => setWay(event.target.value)}
      >
        {WAYS.map((one) => (
          <option key={one.value} value={one.value}>
            {one.label}
          </option>
        ))}
      </Select>
      {isByEntry && (
        <TextField
          size="small"
          label="Boot entry"
          placeholder="Boot0003"
          value={entry}
          onChange={(event) => setEntry(event.target.value)}
        />
      )}
      <Button
        size="small"
        color="inherit"
        disabled={state.isPending || (isByEntry && !entry.trim())}
        onClick={() =>
          state.mutate({ id: install.id, body: { way, entry: isByEntry ? entry.trim() : null } })
        }
      >
        {state.isSuccess ? 'Stated' : 'State it'}
      </Button>
      {state.error && <Alert severity="error">{state.error.message}</Alert>}
    </Actions>
  )
}
