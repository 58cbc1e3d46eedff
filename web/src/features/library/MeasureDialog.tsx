import TextField from '@mui/material/TextField'
import { useState } from 'react'

import { useDefineMeasure, type GoodEnd, type OwnMeasure } from '@/api/ownMeasures'
import { SoftSmall } from '@/ui/kit'
import { NoteForm, Pick } from '@/ui/NoteForm'
import { TextLine } from '@/ui/TextLine'

import { numberIn, UNITS, wordsOf } from './ownMeasure'

const ENDS = [
  { id: 'low', name: 'less is better' },
  { id: 'high', name: 'more is better' },
  { id: 'none', name: 'neither: it judges nobody' },
]
const OTHER = 'other'

type Props = {
  /** What is changed; nothing where a new one is defined. */
  of: OwnMeasure | null
  onClose: () => void
  onDefined: (made: OwnMeasure) => void
}

/** Defines a measure of the tester's own. Name, unit and good end stand: its readings were taken so. */
export function MeasureDialog({ of, onClose, onDefined }: Props) {
  const define = useDefineMeasure()
  const known = UNITS.some((one) => one.id === of?.unit)
  const [name, setName] = useState(of?.name ?? '')
  const [picked, setPicked] = useState(of ? (known ? of.unit : OTHER) : 's')
  const [word, setWord] = useState(of && !known ? of.unit : '')
  const [end, setEnd] = useState<string>(of?.good_end ?? 'low')
  const [step, setStep] = useState(wordsOf(of?.resolution))
  const [amount, setAmount] = useState(wordsOf(of?.margin.amount))
  const [share, setShare] = useState(wordsOf(of?.margin.share && of.margin.share * 100))
  const [says, setSays] = useState(of?.says ?? '')
  const unit = picked === OTHER ? word.trim() : picked
  const shown = UNITS.find((one) => one.id === picked)?.short ?? (unit || 'its unit')
  const figures = [step, amount, share].map(numberIn)
  const isWrong = figures.some((one) => one === undefined)
  const submit = () => {
    const [resolution, wide, part] = figures.map((one) => one ?? null)
    define.mutate(
      {
        name: name.trim(),
        unit,
        good_end: end as GoodEnd,
        resolution: resolution ?? null,
        amount: wide ?? null,
        share: part === null || part === undefined ? null : part / 100,
        says: says.trim(),
      },
      { onSuccess: onDefined },
    )
  }
  return (
    <NoteForm
      title={of ? `What is said of ${of.name}` : 'Define a measure of your own'}
      says={of ? 'Keep it' : 'Define it'}
      error={define.error}
      isReady={name.trim() !== '' && unit !== '' && !isWrong && !define.isPending}
      onClose={onClose}
      onSubmit={submit}
    >
      {of ? (
        <SoftSmall as="p" sx={{ m: 0 }}>
          Name, unit and good end stay as they are: readings were taken so.
        </SoftSmall>
      ) : (
        <>
          <TextLine label="What it is called" value={name} onChange={setName} most={80} required />
          <Pick
            label="Unit"
            value={picked}
            none={null}
            all={[...UNITS, { id: OTHER, name: 'a unit of my own' }]}
            onPick={setPicked}
          />
          {picked === OTHER && (
            <TextLine label="The unit, as W or dB" value={word} onChange={setWord} most={12} required />
          )}
          <Pick label="Which end is good" value={end} none={null} all={ENDS} onPick={setEnd} />
        </>
      )}
      <Figure
        label={`Smallest step it tells, ${shown}`}
        value={step}
        onChange={setStep}
        says="empty: not known"
      />
      <Figure
        label={`Difference that matters, ${shown}`}
        value={amount}
        onChange={setAmount}
        says="without one nobody is said to be ahead"
      />
      <Figure label="Or as a share, %" value={share} onChange={setShare} says="where both stand, the wider" />
      <TextLine label="What it is, in a few words" value={says} onChange={setSays} most={500} />
    </NoteForm>
  )
}

type FigureProps = { label: string; value: string; onChange: (text: string) => void; says: string }

const Figure = ({ label, value, onChange, says }: FigureProps) => (
  <TextField
    size="small"
    label={label}
    value={value}
    error={numberIn(value) === undefined}
    helperText={numberIn(value) === undefined ? 'a positive number is wanted' : says}
    onChange={(event) => onChange(event.target.value)}
    slotProps={{ htmlInput: { inputMode: 'decimal', maxLength: 20 } }}
  />
)
