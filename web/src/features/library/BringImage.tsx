import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Chip from '@mui/material/Chip'
import TextField from '@mui/material/TextField'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { imagesQuery, sendImage, useCopyImage, useDeleteImage } from '@/api/guests'
import { intakeName, useIntakeStage } from '@/api/intake'
import { Actions, SoftSmall } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'
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
  const remove = useDeleteImage()
  const [asked, setAsked] = useState<string | null>(null)
  const own = (useQuery(imagesQuery()).data ?? []).filter((one) => one.sha256)
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
      {own.length > 0 && (
        <Actions sx={{ padding: '0 16px 10px', alignItems: 'center' }}>
          <SoftSmall>Your own images here:</SoftSmall>
          {own.map((one) => (
            <Chip
              key={one.image}
              label={one.label}
              onDelete={() => setAsked(one.label)}
              slotProps={{ root: { title: `sha256 ${one.sha256}` } }}
            />
          ))}
        </Actions>
      )}
      {asked && (
        <LineDialog
          title="Delete this image from the computer"
          label={`Type its name again: ${asked}`}
          only={asked}
          action="Delete for good"
          error={remove.error}
          isPending={remove.isPending}
          onClose={() => setAsked(null)}
          onSay={(name) => remove.mutate(name, { onSuccess: () => setAsked(null) })}
        >
          What was measured with it stays. An image that guests of a system boot is not deleted.
        </LineDialog>
      )}
      {(send.error ?? copy.error) && <Alert severity="error">{(send.error ?? copy.error)!.message}</Alert>}
    </section>
  )
}
