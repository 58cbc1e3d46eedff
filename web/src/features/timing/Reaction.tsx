import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'

import { drillQuery, useKeepDrill, type Drill } from '@/api/byHand'
import { count } from '@/format/numbers'
import { HEADING } from '@/theme/theme'
import { Box, Soft } from '@/ui/kit'
import { freshId } from '@/ui/freshId'

const SIGNALS = 15
const LEAST_WAIT_MS = 1200
const MORE_WAIT_MS = 2600

const Light = styled('button')({
  width: '100%',
  minHeight: 220,
  borderRadius: 4,
  border: '2px solid var(--hm-ink)',
  background: 'var(--hm-sheet)',
  color: 'var(--hm-ink)',
  font: `700 30px ${HEADING}`,
  cursor: 'pointer',
  '&.lit': { background: 'var(--hm-pine)', color: 'var(--hm-sheet)' },
})

/** What is known of the person's own delay, and the drill that measures it. */
export function Reaction({ person }: { person: string }) {
  const known = useQuery(drillQuery(person))
  const [isOpen, setOpen] = useState(false)
  const found = known.data?.reaction
  return (
    <Box as="section" aria-label="Your reaction">
      <h2>Your reaction</h2>
      <Soft as="p" sx={{ my: 0.75 }}>
        {found
          ? `You press ${found.delay_s.toFixed(2)} s after a signal, scattering by ${found.scatter_s.toFixed(2)} s (${found.signals} signals). The delay is taken off marks that answer something seen; the scatter stays in the repeats.`
          : 'Without a drill nothing is taken off, and each time is good to 0.2 s. Between two marks that answer something seen the delay cancels.'}
      </Soft>
      <Button
        variant="outlined"
        color="inherit"
        sx={{ minHeight: 44 }}
        disabled={!person}
        onClick={() => setOpen(true)}
      >
        {found ? 'Measure it again' : 'Measure it: one minute'}
      </Button>
      {!person && <Soft as="p">Say who times, above, first.</Soft>}
      {isOpen && (
        <DrillDialog
          person={person}
          onClose={() => {
            setOpen(false)
            void known.refetch()
          }}
        />
      )}
    </Box>
  )
}

function DrillDialog({ person, onClose }: { person: string; onClose: () => void }) {
  const [answers, setAnswers] = useState<readonly number[]>([])
  const [isLit, setLit] = useState(false)
  const [id] = useState(freshId)
  const keep = useKeepDrill()
  const litAt = useRef<number | null>(null)
  const dueAt = useRef(0)
  const isDone = answers.length >= SIGNALS
  const [isBegun, setBegun] = useState(false)

  useEffect(() => {
    if (isDone || !isBegun) return
    const wait = LEAST_WAIT_MS + Math.random() * MORE_WAIT_MS
    dueAt.current = performance.now() + wait
    litAt.current = null
    const timer = setTimeout(() => {
      setLit(true)
      // the signal is there once this frame is painted
      requestAnimationFrame(() => requestAnimationFrame((at) => (litAt.current = at)))
    }, wait)
    return () => clearTimeout(timer)
  }, [answers.length, isDone, isBegun])

  const answer = (stamp: number) => {
    if (isDone) return
    if (!isBegun) {
      setBegun(true)
      return
    }
    const late = litAt.current === null ? (stamp - dueAt.current) / 1000 : (stamp - litAt.current) / 1000
    setLit(false)
    setAnswers([...answers, litAt.current === null ? Math.min(late, 0) : late])
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="drill-title">
      <DialogTitle id="drill-title" variant="h2">
        How fast do you answer a signal?
      </DialogTitle>
      <DialogContent>
        <Soft as="p" sx={{ mt: 0 }}>
          Press Space, or tap the field, as soon as it turns green: {SIGNALS} times, at moments that nobody
          can foresee.
        </Soft>
        <Light
          autoFocus
          className={isLit ? 'lit' : ''}
          aria-label="The signal"
          onPointerDown={(event) => answer(event.timeStamp)}
          onKeyDown={(event) => {
            if (event.key !== ' ' || event.repeat) return
            event.preventDefault()
            answer(event.timeStamp)
          }}
        >
          {isDone ? 'Done' : !isBegun ? 'Press to begin' : isLit ? 'Now' : 'Wait …'}
        </Light>
        <p role="status">
          {answers.length} of {SIGNALS}
        </p>
        {keep.error && <Alert severity="error">{keep.error.message}</Alert>}
        {keep.data && (
          <p>
            {saidOf(keep.data.drill)}
            {keep.data.retimed > 0 &&
              ` It was also taken off ${count(keep.data.retimed, 'run')} that you timed before it.`}
          </p>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          {keep.data ? 'Close' : 'Cancel'}
        </Button>
        {keep.error && (
          <Button
            color="inherit"
            onClick={() => {
              keep.reset()
              setAnswers([])
              setBegun(false)
            }}
          >
            Once more
          </Button>
        )}
        <Button
          variant="contained"
          disabled={!isDone || keep.isPending || keep.isSuccess}
          onClick={() => keep.mutate({ id, person, answers_s: [...answers] })}
        >
          Keep it
        </Button>
      </DialogActions>
    </Dialog>
  )
}

const saidOf = ({ reaction }: Drill) =>
  `Your delay is ${reaction.delay_s.toFixed(2)} s, and scatters by ${reaction.scatter_s.toFixed(2)} s${
    reaction.left_out ? `; ${reaction.left_out} presses did not count` : ''
  }.`
