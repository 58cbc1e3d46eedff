import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'

import { quotedQuery, useQuote, useWithdrawQuoted } from '@/api/beside'
import type { FindingRow, Study } from '@/api/types'
import { amount } from '@/format/numbers'
import { METHODS } from '@/format/terms'
import { KeyHint } from '@/ui/KeyHint'
import { Foot, LinkButton, Plain, Soft, WordList } from '@/ui/kit'
import { Select } from '@/ui/Select'
import { useShortcuts } from '@/ui/shortcuts'
import { Term } from '@/ui/Term'
import { UndoBar } from '@/ui/UndoBar'
import { freshId } from '@/ui/freshId'

type Props = { study: Study; row: FindingRow; names: ReadonlyMap<number, string> }

/** Figures from elsewhere that stand beside a row, hollow in its picture; never in its verdict. */
export function QuotedFigures({ study, row, names }: Props) {
  const quoted = useQuery(quotedQuery(study.id))
  const change = useWithdrawQuoted()
  const [isAsking, setAsking] = useState(false)
  const [gone, setGone] = useState<string | null>(null)
  useShortcuts([{ key: 'q', says: 'Quote a figure from elsewhere', run: () => setAsking(true) }])
  const mine = (quoted.data ?? []).filter((one) => one.row_key === row.key)
  const withdraw = (id: string, isWithdrawn: boolean) => {
    change.mutate({ id, isWithdrawn })
    setGone(isWithdrawn ? id : null)
  }
  return (
    <>
      {mine.length > 0 && (
        <WordList aria-label="Quoted from elsewhere">
          {mine.map((one) => (
            <li key={one.id}>
              <Term says={METHODS.quoted ?? ''}>Quoted</Term>: {names.get(one.lane_no)},{' '}
              {one.low === one.high
                ? amount(one.low, row.scale)
                : `${amount(one.low, row.scale)} to ${amount(one.high, row.scale)}`}{' '}
              <Soft>
                ({one.source}, {one.dated}){' '}
              </Soft>
              <LinkButton className="noprint" onClick={() => withdraw(one.id, true)}>
                Take it out
              </LinkButton>
            </li>
          ))}
        </WordList>
      )}
      <Foot className="noprint">
        <Plain onClick={() => setAsking(true)}>
          Quote a figure from elsewhere
          <KeyHint name="Q" />
        </Plain>
        {change.error && <Soft>{change.error.message}</Soft>}
      </Foot>
      {isAsking && <QuoteDialog study={study} row={row} names={names} onClose={() => setAsking(false)} />}
      {gone && (
        <UndoBar
          says="The quoted figure was taken out."
          onUndo={() => withdraw(gone, false)}
          onDone={() => setGone(null)}
        />
      )}
    </>
  )
}

function QuoteDialog({ study, row, names, onClose }: Props & { onClose: () => void }) {
  const quote = useQuote(study.id)
  const [id] = useState(freshId)
  const [lane, setLane] = useState(row.lanes[0]?.lane_no ?? 1)
  const [texts, setTexts] = useState({ text: '', text_to: '', source: '', dated: '' })
  const set = (part: Partial<typeof texts>) => setTexts({ ...texts, ...part })
  const submit = (event: FormEvent) => {
    event.preventDefault()
    quote.mutate(
      { id, lane_no: lane, row_key: row.key, unit: row.scale.label || null, ...texts },
      { onSuccess: onClose },
    )
  }
  const isWhole = texts.text.trim() && texts.source.trim() && texts.dated.trim()
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="quote-title">
      <form onSubmit={submit}>
        <DialogTitle id="quote-title" variant="h2">
          {row.label}: a figure from elsewhere
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            From an earlier review, or a usual range. It is drawn hollow with its source, and enters no
            verdict.
          </Soft>
          <label>
            <Soft>Of </Soft>
            <Select value={String(lane)} onChange={(event) => setLane(Number(event.target.value))}>
              {row.lanes.map((one) => (
                <option key={one.lane_no} value={one.lane_no}>
                  {names.get(one.lane_no)}
                </option>
              ))}
            </Select>
          </label>
          <TextField
            label={`Figure, ${row.scale.label || 'with its unit'}`}
            value={texts.text}
            required
            autoFocus
            helperText="As it is written there; a unit with it counts"
            onChange={(event) => set({ text: event.target.value })}
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <TextField
            label="To, of a range"
            value={texts.text_to}
            onChange={(event) => set({ text_to: event.target.value })}
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <TextField
            label="Source"
            value={texts.source}
            required
            helperText="Who says so, and where"
            onChange={(event) => set({ source: event.target.value })}
            slotProps={{ htmlInput: { maxLength: 200 } }}
          />
          <TextField
            label="Of when"
            value={texts.dated}
            required
            helperText="A year, a month or a day: 2025, 2025-06, 2025-06-14"
            onChange={(event) => set({ dated: event.target.value })}
            slotProps={{ htmlInput: { maxLength: 10 } }}
          />
          {quote.error && <Alert severity="error">{quote.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={!isWhole || quote.isPending}>
            Quote it
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
