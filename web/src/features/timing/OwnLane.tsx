import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { thingsQuery } from '@/api/things'
import { Actions, Box, Soft } from '@/ui/kit'
import { TextLine } from '@/ui/TextLine'

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
          <TextLine label="System" value={system} onChange={setSystem} required list="known-systems" />
          <TextLine label="Machine" value={machine} onChange={setMachine} required list="known-machines" />
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
        <TextLine
          label="The question, for the study’s title"
          value={title}
          onChange={onTitle}
          most={160}
          sx={{ width: '100%', mt: 1.5 }}
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
