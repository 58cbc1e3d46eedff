import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState, type FormEvent } from 'react'

import { amountsQuery, type Written } from '@/api/byHand'
import { metricsQuery } from '@/api/plan'
import { Soft } from '@/ui/kit'
import { Loading } from '@/ui/States'

type Props = {
  title: string
  procedure: string
  /** The measure of the tester's own that is asked for, where one is. */
  measure?: string
  onClose: () => void
  onSay: (figures: Written[]) => void
}

/** Figures read off a screen, as they are written there; beside each what it is understood as. */
export function TypeDialog({ title, procedure, measure, onClose, onSay }: Props) {
  const metrics = useQuery(metricsQuery())
  const [texts, setTexts] = useState<Record<string, string>>({})
  const figures = Object.entries(texts)
    .filter(([, text]) => text.trim() !== '')
    .map(([metric, text]) => ({ metric, text: text.trim() }))
  const asked = useDeferredValue(figures)
  const read = useQuery(amountsQuery(asked))
  const saidOf = (metric: string) => {
    const place = asked.findIndex((one) => one.metric === metric)
    return place < 0 ? undefined : read.data?.[place]
  }
  const isWrong = figures.some((one) => saidOf(one.metric)?.error)
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (figures.length) onSay(figures)
  }
  const offered =
    metrics.data?.filter((one) => (measure ? one.key === measure : one.procedures.includes(procedure))) ?? []
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="type-title">
      <form onSubmit={submit}>
        <DialogTitle id="type-title" variant="h2">
          {title}
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
          <Soft as="p" sx={{ m: 0 }}>
            As you read them: 1:45, 47 s, 1.18 GiB, 505M, 30 % of 1 GiB. What you leave empty was not read.
          </Soft>
          {metrics.isPending && <Loading what="the measures" />}
          {metrics.error && <Alert severity="error">{metrics.error.message}</Alert>}
          {offered.map((one, place) => {
            const said = saidOf(one.key)
            return (
              <TextField
                key={one.key}
                label={one.label}
                size="small"
                autoFocus={place === 0}
                value={texts[one.key] ?? ''}
                error={Boolean(said?.error)}
                helperText={said?.error ?? (said?.shown ? `understood as ${said.shown}` : ' ')}
                onChange={(event) => setTexts({ ...texts, [one.key]: event.target.value })}
              />
            )
          })}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" sx={{ minHeight: 44 }} onClick={onClose}>
            Cancel
          </Button>
          <Button
            type="submit"
            variant="contained"
            sx={{ minHeight: 44 }}
            disabled={!figures.length || isWrong}
          >
            Hand it in
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
