import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { thingsQuery } from '@/api/things'
import { Actions, Box, Soft } from '@/ui/kit'

type Props = {
  title: string
  onTitle: (title: string) => void
  isTitled: boolean
  /** What stands above the fields. */
  says?: string
  onAdd: (system: string, machine: string) => void
  onFresh: (() => void) | null
}

/** Lanes without a study: what is timed makes one. */
export function OwnLane({ title, onTitle, isTitled, says, onAdd, onFresh }: Props) {
  const systems = useQuery(thingsQuery('systems'))
  const machines = useQuery(thingsQuery('machines'))
  const [system, setSystem] = useState('')
  const [machine, setMachine] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    onAdd(system.trim(), machine.trim())
    setSystem('')
  }
  return (
    <Box as="section" aria-label="Add a lane">
      <h2>Add a lane</h2>
      <Soft as="p" sx={{ my: 0.75 }}>
        {says ??
          'What your sheet asks for stands here by itself. Anything else you name: it makes a study of its own.'}
      </Soft>
      <form onSubmit={submit}>
        <Actions>
          <TextField
            size="small"
            label="System"
            required
            value={system}
            onChange={(event) => setSystem(event.target.value)}
            slotProps={{ htmlInput: { maxLength: 100, list: 'known-systems' } }}
          />
          <TextField
            size="small"
            label="Machine"
            required
            value={machine}
            onChange={(event) => setMachine(event.target.value)}
            slotProps={{ htmlInput: { maxLength: 100, list: 'known-machines' } }}
          />
          <datalist id="known-systems">
            {systems.data?.map((one) => (
              <option key={one.id} value={one.name} />
            ))}
          </datalist>
          <datalist id="known-machines">
            {machines.data?.map((one) => (
              <option key={one.id} value={one.name} />
            ))}
          </datalist>
          <Button type="submit" variant="outlined" color="inherit" sx={{ minHeight: 44 }}>
            Add it
          </Button>
        </Actions>
      </form>
      {isTitled && (
        <TextField
          size="small"
          label="The question, for the study’s title"
          fullWidth
          sx={{ mt: 1.5 }}
          value={title}
          onChange={(event) => onTitle(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 160 } }}
        />
      )}
      {onFresh && (
        <Button color="inherit" sx={{ mt: 1, minHeight: 44 }} onClick={onFresh}>
          Begin another study
        </Button>
      )}
    </Box>
  )
}
