import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { imageOfQuery, imagesQuery, useStateImage } from '@/api/guests'
import { Actions, Inset, PanelTop, Sheet, Soft, SoftSmall } from '@/ui/kit'
import { later } from '@/ui/later'
import { Select } from '@/ui/Select'
import { Loading } from '@/ui/States'

const BringImage = later(() => import('./BringImage').then((module) => module.BringImage))
const ProofPanel = later(() => import('./ProofPanel').then((module) => module.ProofPanel))

const WAYS = [
  {
    value: 'probe',
    label: 'it says so itself',
    text: '',
    says: 'Our agent is inside: systems that were built here.',
  },
  {
    value: 'screen',
    label: 'its screen keeps still',
    text: '',
    says: 'Any system with a screen; half a second fine.',
  },
  { value: 'serial', label: 'a text on its serial line', text: 'The text', says: 'Such as a login prompt.' },
  { value: 'port', label: 'a network port answers', text: 'The port', says: 'Such as 22.' },
] as const

/** What guests of a system boot, how it is told that they are ready, and the proof that they do. */
export function ImagePanel({ system }: { system: string }) {
  const images = useQuery(imagesQuery())
  const stated = useQuery(imageOfQuery(system))
  const state = useStateImage(system)
  const [way, setWay] = useState<string | null>(null)
  const [isBringing, setBringing] = useState(false)
  const recipe = stated.data ?? {}
  const [kind = 'probe', text = ''] = (recipe.ready ?? 'probe').split(/:(.*)/s)
  const present = WAYS.find((one) => one.value === (way ?? kind)) ?? WAYS[0]
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    const told = String(form.get('text') ?? '').trim()
    state.mutate({
      image: String(form.get('image')),
      ready: present.text ? `${present.value}:${told}` : present.value,
      limit_s: Number(form.get('limit')) || null,
    })
  }
  return (
    <Sheet as="section" aria-label="Put to work" sx={{ mt: 1.75 }}>
      <PanelTop>
        <h2>Put to work</h2>
        <Soft>which image a virtual machine boots, and how it is told that it is ready</Soft>
      </PanelTop>
      {(images.isPending || stated.isPending) && <Loading what="the images" />}
      {(images.error ?? stated.error) && (
        <Alert severity="error">{(images.error ?? stated.error)!.message}</Alert>
      )}
      {images.data && stated.data && (
        <form onSubmit={submit}>
          <Actions sx={{ padding: '4px 16px 8px', alignItems: 'center' }}>
            <label>
              <SoftSmall>Image </SoftSmall>
              <Select name="image" key={recipe.image ?? ''} defaultValue={recipe.image ?? ''} required>
                <option value="" disabled>
                  choose one …
                </option>
                {images.data.map((one) => (
                  <option key={one.image} value={one.image}>
                    {one.label} ({one.origin}
                    {one.size ? `, ${Math.round(one.size / 2 ** 20)} MiB` : ''})
                  </option>
                ))}
              </Select>
            </label>
            <label>
              <SoftSmall>Ready when </SoftSmall>
              <Select value={present.value} onChange={(event) => setWay(event.target.value)}>
                {WAYS.map((one) => (
                  <option key={one.value} value={one.value}>
                    {one.label}
                  </option>
                ))}
              </Select>
            </label>
            {present.text && (
              <TextField
                key={present.value}
                name="text"
                size="small"
                required
                label={present.text}
                defaultValue={present.value === kind ? text : ''}
              />
            )}
            <TextField
              name="limit"
              size="small"
              type="number"
              label="Waited for at most, s"
              key={recipe.ready_limit_s ?? ''}
              defaultValue={recipe.ready_limit_s ?? ''}
              placeholder="600"
              sx={{ width: 220 }}
              slotProps={{ htmlInput: { min: 1, max: 86400 } }}
            />
            <Button type="submit" variant="outlined" color="inherit" disabled={state.isPending}>
              {state.isSuccess ? 'Stated' : 'State it'}
            </Button>
            <Button color="inherit" onClick={() => setBringing(!isBringing)}>
              Bring an image
            </Button>
          </Actions>
          <Inset>
            <SoftSmall>{present.says}</SoftSmall>
          </Inset>
          {state.error && <Alert severity="error">{state.error.message}</Alert>}
        </form>
      )}
      {isBringing && <BringImage onDone={() => setBringing(false)} />}
      {recipe.image && <ProofPanel system={system} />}
    </Sheet>
  )
}
