import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { imagesQuery, sendImage, useCopyImage } from '@/api/guests'
import { intakeName, useIntakeStage } from '@/api/intake'
import { Actions, SoftSmall } from '@/ui/kit'
import { Progress } from '@/ui/Progress'

/** Brings an image onto the computer that carries the guests: from this browser, or by its path there. */
export function BringImage({ onDone }: { onDone: () => void }) {
  const queries = useQueryClient()
  const [file, setFile] = useState<File | null>(null)
  const [path, setPath] = useState('')
  const [share, setShare] = useState(0)
  const [name] = useState(intakeName)
  const done = () => {
    void queries.invalidateQueries({ queryKey: imagesQuery().queryKey })
    onDone()
  }
  const send = useMutation({ mutationFn: (one: File) => sendImage(one, setShare), onSuccess: done })
  const copy = useCopyImage()
  const stage = useIntakeStage(copy.isPending ? name : null)
  const mib = (bytes: number) => Math.round(bytes / 2 ** 20)
  return (
    <section aria-label="Bring an image">
      <Actions sx={{ padding: '4px 16px 10px', alignItems: 'center' }}>
        <Button component="label" variant="outlined" color="inherit">
          {file ? file.name : 'Choose a file'}
          <input
            type="file"
            hidden
            accept=".qcow2,.raw,.img,.iso"
            aria-label="Image file"
            onChange={(event) => setFile(event.target.files?.[0] ?? null)}
          />
        </Button>
        <Button
          variant="contained"
          disabled={!file || send.isPending}
          onClick={() => file && send.mutate(file)}
        >
          Send it
        </Button>
        <SoftSmall>or, where it lies on the computer that runs Hare Mile:</SoftSmall>
        <TextField
          size="small"
          label="Its whole path there"
          value={path}
          onChange={(event) => setPath(event.target.value)}
        />
        <Button
          variant="outlined"
          color="inherit"
          disabled={!path.startsWith('/') || copy.isPending}
          onClick={() => copy.mutate({ path, progress: name }, { onSuccess: done })}
        >
          Copy it
        </Button>
      </Actions>
      {send.isPending && file && (
        <Progress what="Sent" done={mib(share * file.size)} of={mib(file.size)} unit="MiB" />
      )}
      {copy.isPending && stage && (
        <Progress what="Copied" done={mib(stage.done)} of={mib(stage.of)} unit="MiB" />
      )}
      {(send.error ?? copy.error) && <Alert severity="error">{(send.error ?? copy.error)!.message}</Alert>}
    </section>
  )
}
