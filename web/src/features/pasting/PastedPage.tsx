import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import Radio from '@mui/material/Radio'
import RadioGroup from '@mui/material/RadioGroup'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { useLocation, useNavigate, useOutletContext } from 'react-router'

import { pastedQuery, resultOf, useHandIn, type Pasted, type Piece } from '@/api/byHand'
import type { StudyContext } from '@/api/studyContext'
import type { Study } from '@/api/types'
import { count } from '@/format/numbers'
import { useKept } from '@/ui/kept'
import { Actions, Box, Main, Sheet, Soft, SoftSmall, Stack, TitleBar } from '@/ui/kit'
import { Select } from '@/ui/Select'
import { Loading } from '@/ui/States'
import { freshId } from '@/ui/freshId'
import { TextLine } from '@/ui/TextLine'

import { procedureOf, spans } from './spans'

const Two = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0,1.3fr) minmax(300px,1fr)',
  gap: 16,
  marginTop: 12,
  alignItems: 'start',
  '@media (max-width:900px)': { gridTemplateColumns: 'minmax(0,1fr)' },
})
const Text = styled('pre')({
  margin: 0,
  padding: '12px 14px',
  overflow: 'auto',
  maxHeight: 560,
  fontSize: 13,
  lineHeight: 1.5,
  '& mark': { color: 'inherit', background: 'none', borderBottom: '2px solid' },
  '& .piece': {
    borderColor: 'var(--hm-pine)',
    background: 'color-mix(in srgb,var(--hm-pine) 14%,transparent)',
  },
  '& .stated': { borderColor: 'var(--hm-slate)' },
  '& .question': {
    borderColor: 'var(--hm-ochre)',
    background: 'color-mix(in srgb,var(--hm-ochre) 16%,transparent)',
  },
  '& .unread': { borderColor: 'var(--hm-rule)', borderBottomStyle: 'dotted', color: 'var(--hm-soft)' },
})

/** A terminal's output becomes readings of a contender of this study. */
export function StudyPasted() {
  const { study } = useOutletContext<StudyContext>()
  return <PastedText study={study} />
}

/** A terminal's output, from nothing: it makes system, machine and study. */
export const PastedPage = () => (
  <Main>
    <TitleBar>
      <div>
        <h1>A pasted text</h1>
        <Soft as="div">What a terminal printed: nothing is kept before you agree.</Soft>
      </div>
    </TitleBar>
    <PastedText study={null} />
  </Main>
)

function PastedText({ study }: { study: Study | null }) {
  const brought = (useLocation().state as { text?: string } | null)?.text ?? ''
  const [text, setText] = useState(brought)
  const [looked, setLooked] = useState(brought)
  const found = useQuery(pastedQuery(looked))
  return (
    <>
      {found.isLoading && <Loading what="the text" />}
      {found.error && <Alert severity="error">{found.error.message}</Alert>}
      {found.data ? (
        <Agree key={looked} found={found.data} study={study} onOther={() => setLooked('')} />
      ) : (
        <Box sx={{ mt: 1.5 }}>
          <TextField
            label="The text, as the terminal printed it"
            multiline
            minRows={8}
            fullWidth
            autoFocus
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Actions sx={{ mt: 1 }}>
            <Button variant="contained" disabled={!text.trim()} onClick={() => setLooked(text)}>
              See what it holds
            </Button>
          </Actions>
        </Box>
      )}
    </>
  )
}

type AgreeProps = { found: Pasted; study: Study | null; onOther: () => void }

function Agree({ found, study, onOther }: AgreeProps) {
  const asked = new Set(found.questions.flatMap((one) => one.choices.map((choice) => choice.metric)))
  const [taken, setTaken] = useState<ReadonlySet<Piece>>(
    () => new Set(found.pieces.filter((one) => !asked.has(one.metric))),
  )
  const [answers, setAnswers] = useState<Record<number, number>>({})
  const [hasStated, setHasStated] = useState(true)
  const [person, setPerson] = useKept('person', '')
  const [lane, setLane] = useState('')
  const [system, setSystem] = useState(found.system ?? '')
  const [machine, setMachine] = useState('')
  const [title, setTitle] = useState('')
  const hand = useHandIn()
  const navigate = useNavigate()
  const chosen = [
    ...found.pieces.filter((one) => taken.has(one)),
    ...Object.entries(answers).flatMap(([place, choice]) => {
      const one = found.questions[Number(place)]?.choices[choice]
      return one ? [one] : []
    }),
  ]
  const metrics = chosen.map((one) => one.metric)
  const isTwice = new Set(metrics).size < metrics.length
  const contender = study?.contenders.find((one) => String(one.lane_no) === lane)
  const where = contender
    ? { system: contender.install.system.name, machine: contender.install.machine.name }
    : { system: system.trim(), machine: machine.trim() }
  const canKeep =
    chosen.length > 0 && !isTwice && person.trim() !== '' && where.system !== '' && where.machine !== ''
  const toggle = (one: Piece) => {
    const next = new Set(taken)
    if (!next.delete(one)) next.add(one)
    setTaken(next)
  }
  const submit = (event: FormEvent) => {
    event.preventDefault()
    const conditions = hasStated ? Object.fromEntries(found.stated.map((one) => [one.key, one.value])) : {}
    const at = new Date().toISOString()
    const procedures = [...new Set(metrics.map(procedureOf))]
    const results = procedures.map((procedure) =>
      resultOf({
        id: freshId(),
        ...where,
        procedure,
        at,
        person: person.trim(),
        method: 'typed',
        pasted: found.text,
        conditions,
        figures: chosen
          .filter((one) => procedureOf(one.metric) === procedure)
          .map(({ metric, value, resolution, definition }) => ({ metric, value, resolution, definition })),
      }),
    )
    hand.mutate(
      { study: study?.id ?? null, title: title.trim() || `${where.system}, as pasted`, results },
      { onSuccess: (kept) => void navigate(`/studies/${kept.study}/findings`) },
    )
  }
  return (
    <Two>
      <Sheet as="section" aria-label="The text">
        <Text tabIndex={0}>
          {spans(found).map((one, i) =>
            one.kind === 'plain' ? (
              <span key={i}>{one.text}</span>
            ) : (
              <mark key={i} className={one.kind}>
                {one.text}
              </mark>
            ),
          )}
        </Text>
      </Sheet>
      <form onSubmit={submit}>
        <Stack>
          <Box as="section" aria-label="What it holds">
            <h2>What it holds</h2>
            {found.pieces
              .filter((one) => !asked.has(one.metric))
              .map((one, i) => (
                <FormControlLabel
                  key={i}
                  sx={{ display: 'flex', alignItems: 'flex-start', my: 0.5 }}
                  control={<Checkbox checked={taken.has(one)} onChange={() => toggle(one)} />}
                  label={<Said piece={one} />}
                />
              ))}
            {found.pieces.length === 0 && found.questions.length === 0 && (
              <p>Nothing of it is an output that is known here. Type its figures in instead.</p>
            )}
            {found.questions.map((one, place) => (
              <Box key={place} sx={{ my: 1 }}>
                <b>{one.says}</b>
                {one.choices.length > 0 && (
                  <RadioGroup
                    aria-label={one.says}
                    value={answers[place] ?? -1}
                    onChange={(event) => setAnswers({ ...answers, [place]: Number(event.target.value) })}
                  >
                    <FormControlLabel value={-1} control={<Radio />} label="none of these" />
                    {one.choices.map((choice, i) => (
                      <FormControlLabel
                        key={i}
                        value={i}
                        control={<Radio />}
                        label={<Said piece={choice} />}
                      />
                    ))}
                  </RadioGroup>
                )}
              </Box>
            ))}
            {found.stated.length > 0 && (
              <FormControlLabel
                control={
                  <Checkbox checked={hasStated} onChange={(event) => setHasStated(event.target.checked)} />
                }
                label={
                  <SoftSmall>
                    beside it:{' '}
                    {found.stated.map((one) => `${one.key.replace('_', ' ')} ${one.value}`).join(', ')}
                  </SoftSmall>
                }
              />
            )}
            {found.unread.length > 0 && (
              <SoftSmall as="p">
                {count(found.unread.length, 'line')} not understood, dotted in the text.
              </SoftSmall>
            )}
          </Box>
          <Box as="section" aria-label="Whose readings these are">
            <h2>Whose readings</h2>
            <Stack sx={{ mt: 1 }}>
              {study && (
                <label>
                  <SoftSmall>Contender </SoftSmall>
                  <Select value={lane} onChange={(event) => setLane(event.target.value)}>
                    <option value="">another, who joins …</option>
                    {study.contenders.map((one) => (
                      <option key={one.lane_no} value={one.lane_no}>
                        {one.label}
                      </option>
                    ))}
                  </Select>
                </label>
              )}
              {!contender && (
                <>
                  <TextLine label="System" value={system} onChange={setSystem} required />
                  <TextLine label="Machine" value={machine} onChange={setMachine} required />
                </>
              )}
              {!study && (
                <TextLine
                  label="The question, for the study’s title"
                  value={title}
                  onChange={setTitle}
                  most={160}
                />
              )}
              <TextLine label="Who read it" value={person} onChange={setPerson} required most={60} />
            </Stack>
          </Box>
          {isTwice && <Alert severity="warning">One measure is chosen twice: a run has one of each.</Alert>}
          {hand.error && <Alert severity="error">{hand.error.message}</Alert>}
          <Actions>
            <Button type="submit" variant="contained" disabled={!canKeep || hand.isPending}>
              Keep {count(chosen.length, 'reading')}
            </Button>
            <Button color="inherit" onClick={onOther}>
              Another text
            </Button>
          </Actions>
        </Stack>
      </form>
    </Two>
  )
}

const Said = ({ piece }: { piece: Piece }) => (
  <span>
    {piece.label} <b>{piece.shown}</b>
    <SoftSmall as="div">
      {piece.tool}: {piece.definition}
    </SoftSmall>
  </span>
)
