import Alert from '@mui/material/Alert'
import TextField from '@mui/material/TextField'
import { useEffect, useRef, useState } from 'react'

import { useChangeStudy } from '@/api/corrections'
import type { Study } from '@/api/types'
import { Box, SoftSmall, Stack } from '@/ui/kit'

const TYPED_MS = 600

const tagsIn = (text: string) => [
  ...new Set(
    text
      .split(',')
      .map((tag) => tag.trim().slice(0, 40))
      .filter(Boolean),
  ),
]

/** A note and tags of a study, kept as they are typed; what stood there before is in its history. */
export function Notes({ study }: { study: Study }) {
  const change = useChangeStudy(study.id)
  const { mutate } = change
  const [typed, setTyped] = useState<{ note?: string; tags?: string[] } | null>(null)
  const latest = useRef(typed)
  useEffect(() => {
    latest.current = typed
    if (!typed) return
    const timer = setTimeout(() => {
      mutate(typed)
      setTyped(null)
    }, TYPED_MS)
    return () => clearTimeout(timer)
  }, [typed, mutate])
  useEffect(
    () => () => {
      if (latest.current) mutate(latest.current)
    },
    [mutate],
  )
  return (
    <Box as="section" aria-label="Notes">
      <h2>Notes</h2>
      <Stack sx={{ mt: 1 }}>
        <TextField
          multiline
          minRows={2}
          label="Note"
          defaultValue={study.note}
          onChange={(event) => setTyped((known) => ({ ...known, note: event.target.value }))}
          slotProps={{ htmlInput: { maxLength: 2000 } }}
        />
        <TextField
          size="small"
          label="Tags"
          placeholder="field stations, 2026"
          defaultValue={study.tags.join(', ')}
          helperText="Parted by commas; the list of studies finds by them."
          onChange={(event) => setTyped((known) => ({ ...known, tags: tagsIn(event.target.value) }))}
        />
        <SoftSmall role="status">{typed || change.isPending ? 'keeping …' : ''}</SoftSmall>
        {change.error && <Alert severity="error">{change.error.message}</Alert>}
      </Stack>
    </Box>
  )
}
