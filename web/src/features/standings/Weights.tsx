import Slider from '@mui/material/Slider'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'

import type { TotalsPage } from '@/api/standings'
import { amount } from '@/format/numbers'
import { Chooser } from '@/ui/Chooser'
import { LinkButton, Soft, SoftSmall } from '@/ui/kit'
import { useView } from '@/ui/useView'

import { weightName } from './askedTotals'

const MOST = 10
const STEP = 0.5

const Grid = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(160px,1.2fr) minmax(120px,2fr) 84px minmax(110px,1fr) auto',
  gap: '6px 18px',
  alignItems: 'center',
  padding: '10px 20px 14px',
  borderTop: '1px solid var(--hm-rule)',
  '@media (max-width:700px)': { gridTemplateColumns: '84px 1fr auto', '& .wide': { gridColumn: '1 / -1' } },
})

/** The measures of an index, each with its weight as a slider and a number. */
export function Weights({ page }: { page: TotalsPage }) {
  const view = useView()
  const parts = Object.keys(page.weights)
  const whole = Object.values(page.weights).reduce((sum, one) => sum + one, 0)
  const put = (changes: Record<string, number>) => {
    const next = { ...page.weights, ...changes }
    view.put(
      Object.fromEntries(
        Object.entries(next).map(([part, weight]) => [weightName(part), weight > 0 ? String(weight) : '']),
      ),
    )
  }
  const others = page.measures.filter((one) => !(one.part in page.weights))
  return (
    <Grid role="group" aria-label="Weights">
      {parts.map((part) => (
        <Row
          key={part}
          label={page.labels[part]!}
          weight={page.weights[part]!}
          share={page.weights[part]! / whole}
          reference={page.figures[part] === undefined ? '' : amount(page.figures[part], page.scales[part]!)}
          isOnly={parts.length === 1}
          onChange={(weight) => put({ [part]: weight })}
        />
      ))}
      <div className="wide">
        <Chooser
          label="one more measure"
          chosen=""
          onChoose={(part) => part && put({ [part]: 1 })}
          options={[
            { id: '', label: 'choose' },
            ...others.map((one) => ({ id: one.part, label: `${one.label} (${one.systems} systems)` })),
          ]}
        />
      </div>
    </Grid>
  )
}

type RowProps = {
  label: string
  weight: number
  share: number
  reference: string
  isOnly: boolean
  onChange: (weight: number) => void
}

function Row({ label, weight, share, reference, isOnly, onChange }: RowProps) {
  return (
    <>
      <div className="wide">
        <b>{label}</b> <SoftSmall>{(100 * share).toFixed(0)} % of the index</SoftSmall>
      </div>
      <Slider
        className="wide"
        size="small"
        min={STEP}
        max={MOST}
        step={STEP}
        value={Math.min(weight, MOST)}
        aria-label={`Weight of ${label}`}
        onChange={(_, value) => onChange(value)}
      />
      <TextField
        size="small"
        type="number"
        value={weight}
        onChange={(event) => Number(event.target.value) > 0 && onChange(Number(event.target.value))}
        slotProps={{
          htmlInput: { min: STEP, max: 1000, step: STEP, 'aria-label': `Weight of ${label}, number` },
        }}
      />
      <Soft>{reference && `100 is ${reference}`}</Soft>
      <LinkButton disabled={isOnly} onClick={() => onChange(0)} aria-label={`Leave ${label} out`}>
        Leave out
      </LinkButton>
    </>
  )
}
