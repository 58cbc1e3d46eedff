import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { tiesQuery, useKeepScorecard, type ScorecardPage, type TieChoice } from '@/api/scorecards'
import { SCALES, type ScaleKind } from '@/format/scores'
import { LinkButton, Soft } from '@/ui/kit'
import { TextLine } from '@/ui/TextLine'

import { cardOf, draftOf, type CardDraft } from './cardDraft'
import { NoteForm, Pick } from '@/ui/NoteForm'

type Props = { page: ScorecardPage; newest: number; onClose: () => void; onKept: () => void }

const Line = styled('div')({
  display: 'grid',
  gap: 8,
  gridTemplateColumns: '1.4fr 110px 2fr auto',
  alignItems: 'center',
  '@media (max-width:700px)': { gridTemplateColumns: '1fr 90px', '& > :nth-of-type(3)': { order: 3 } },
})

/** Writes a card; each time it is kept makes a version. */
export function CardDialog({ page, newest, onClose, onKept }: Props) {
  const keep = useKeepScorecard(page.system_id)
  const ties = useQuery(tiesQuery(page.system_id))
  const [draft, setDraft] = useState(() => draftOf(page.card))
  const put = (more: Partial<CardDraft>) => setDraft({ ...draft, ...more })
  const card = cardOf(draft, newest)
  const { top, step } = SCALES[draft.scale]
  return (
    <NoteForm
      title={`Scorecard of ${page.system}`}
      says={newest ? `Keep as version ${newest + 1}` : 'Keep it'}
      error={keep.error}
      isReady={card !== null && !keep.isPending}
      isWide
      onClose={onClose}
      onSubmit={() => keep.mutate(card!, { onSuccess: onKept })}
    >
      <Pick
        label="Judged in"
        value={draft.scale}
        none={null}
        all={Object.entries(SCALES).map(([id, one]) => ({ id, name: `${id}, 0 to ${one.top}` }))}
        onPick={(scale) => put({ scale: scale as ScaleKind })}
      />
      <Soft>Criteria: yours, as many as you judge by; the overall score is their mean.</Soft>
      {draft.criteria.map((one, i) => {
        const change = (more: Partial<typeof one>) =>
          put({ criteria: draft.criteria.map((other, j) => (i === j ? { ...other, ...more } : other)) })
        return (
          <Line key={i}>
            <TextLine label={`Criterion ${i + 1}`} value={one.name} onChange={(name) => change({ name })} />
            <TextField
              size="small"
              type="number"
              label={`Score ${i + 1}`}
              value={one.score}
              onChange={(event) => change({ score: event.target.value })}
              slotProps={{ htmlInput: { min: 0, max: top, step } }}
            />
            <TextLine
              label={`Why ${i + 1}`}
              value={one.why}
              onChange={(why) => change({ why })}
              most={1000}
            />
            <LinkButton
              type="button"
              onClick={() => put({ criteria: draft.criteria.filter((_, j) => j !== i) })}
              aria-label={`Take criterion ${i + 1} out`}
            >
              Take out
            </LinkButton>
          </Line>
        )
      })}
      <Button
        color="inherit"
        onClick={() => put({ criteria: [...draft.criteria, { name: '', score: '', why: '' }] })}
      >
        One criterion more
      </Button>
      <TextLine
        label="Words for the steps, such as: 0 not for us; 3 does its work; 4 a pleasure"
        value={draft.words}
        onChange={(words) => put({ words })}
        most={1000}
      />
      <PointLines draft={draft} ties={ties.data ?? []} onPut={put} />
      <TextLine label="For whom" value={draft.forWhom} onChange={(forWhom) => put({ forWhom })} most={1000} />
      <TextLine
        label="For whom not"
        value={draft.notForWhom}
        onChange={(notForWhom) => put({ notForWhom })}
        most={1000}
      />
    </NoteForm>
  )
}

type PointProps = {
  draft: CardDraft
  ties: readonly TieChoice[]
  onPut: (more: Partial<CardDraft>) => void
}

function PointLines({ draft, ties, onPut }: PointProps) {
  const all = ties.map((one) => ({ id: JSON.stringify(one.tie), name: `${one.tie.kind}: ${one.says}` }))
  return (
    <>
      {draft.points.map((one, i) => {
        const change = (more: Partial<typeof one>) =>
          onPut({ points: draft.points.map((other, j) => (i === j ? { ...other, ...more } : other)) })
        return (
          <Line key={i}>
            <TextLine
              label={`${one.isGood ? 'Good' : 'Not so good'} ${i + 1}`}
              value={one.says}
              onChange={(says) => change({ says })}
              most={200}
            />
            <Pick
              label={`Kind ${i + 1}`}
              value={one.isGood ? 'good' : 'bad'}
              none={null}
              all={[
                { id: 'good', name: 'good' },
                { id: 'bad', name: 'bad' },
              ]}
              onPick={(kind) => change({ isGood: kind === 'good' })}
            />
            <Pick
              label={`Rests on ${i + 1}`}
              value={one.tie}
              none="nothing that was measured"
              all={
                one.tie && !all.some((tie) => tie.id === one.tie)
                  ? [...all, { id: one.tie, name: 'as it was' }]
                  : all
              }
              onPick={(tie) => change({ tie })}
            />
            <LinkButton
              type="button"
              onClick={() => onPut({ points: draft.points.filter((_, j) => j !== i) })}
              aria-label={`Take point ${i + 1} out`}
            >
              Take out
            </LinkButton>
          </Line>
        )
      })}
      <Button
        color="inherit"
        onClick={() => onPut({ points: [...draft.points, { isGood: true, says: '', tie: '' }] })}
      >
        One good or bad point more
      </Button>
    </>
  )
}
