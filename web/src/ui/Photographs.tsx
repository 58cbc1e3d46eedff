import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogTitle from '@mui/material/DialogTitle'
import { styled } from '@mui/material/styles'
import { useState, type ChangeEvent, type DragEvent } from 'react'

import { Actions, SoftSmall } from './kit'
import { photograph } from './photograph'
import { freshId } from './freshId'

const Small = styled('button')({
  padding: 0,
  border: '1px solid var(--hm-rule)',
  borderRadius: 3,
  background: 'none',
  cursor: 'zoom-in',
  lineHeight: 0,
  '& img': { height: 56, minWidth: 44, maxWidth: 100, objectFit: 'cover', borderRadius: 2 },
})
const Large = styled('img')({ maxWidth: '100%', maxHeight: '75vh', objectFit: 'contain', margin: 'auto' })

export type Shown = { id: string; name: string; image: string }

type Props = {
  shown: readonly Shown[]
  /** What they stand beside, for who does not see them. */
  of: string
  most: number
  onAdd: (photographs: Shown[]) => void
  onRemove: (id: string) => void
}

/** Photographs beside a run: small, large on a press; one more by camera, file or drop. */
export function Photographs({ shown, of, most, onAdd, onRemove }: Props) {
  const [large, setLarge] = useState<Shown | null>(null)
  const [fault, setFault] = useState<string | null>(null)
  const take = async (files: readonly File[]) => {
    setFault(null)
    try {
      const drawn: Shown[] = []
      for (const file of files.slice(0, most - shown.length))
        drawn.push({
          id: freshId(),
          name: file.name.slice(0, 100) || 'photograph',
          image: await photograph(file),
        })
      onAdd(drawn)
    } catch (error) {
      setFault(error instanceof Error ? error.message : String(error))
    }
  }
  const onDrop = (event: DragEvent) => {
    event.preventDefault()
    event.stopPropagation()
    void take([...event.dataTransfer.files])
  }
  const onChange = (event: ChangeEvent<HTMLInputElement>) => {
    void take([...(event.target.files ?? [])])
    event.target.value = ''
  }
  return (
    <div onDrop={onDrop} onDragOver={(event) => event.preventDefault()}>
      <Actions sx={{ gap: 0.75, alignItems: 'center' }}>
        {shown.map((one) => (
          <Small key={one.id} aria-label={`${one.name}: open`} onClick={() => setLarge(one)}>
            <img src={one.image} alt="" />
          </Small>
        ))}
        {shown.length < most && (
          <Button component="label" size="small" color="inherit" sx={{ minHeight: 44 }}>
            Photograph
            <input
              type="file"
              accept="image/jpeg,image/png,image/webp"
              hidden
              multiple
              aria-label={`Photograph of ${of}`}
              onChange={onChange}
            />
          </Button>
        )}
      </Actions>
      {fault && <SoftSmall role="alert">{fault}</SoftSmall>}
      {large && (
        <Dialog open onClose={() => setLarge(null)} maxWidth="lg" aria-labelledby="photograph-title">
          <DialogTitle id="photograph-title" variant="h2">
            {large.name}
          </DialogTitle>
          <Large src={large.image} alt={`${large.name}: ${of}`} />
          <DialogActions>
            <Button
              color="inherit"
              onClick={() => {
                onRemove(large.id)
                setLarge(null)
              }}
            >
              Take it out
            </Button>
            <Button variant="contained" autoFocus onClick={() => setLarge(null)}>
              Close
            </Button>
          </DialogActions>
        </Dialog>
      )}
    </div>
  )
}
