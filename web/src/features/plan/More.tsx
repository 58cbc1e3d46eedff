import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'

import type { Draft } from '@/api/plan'
import type { Schemas } from '@/api/types'
import { Box, SoftSmall } from '@/ui/kit'
import { Select } from '@/ui/Select'

import { Looks } from './Looks'

const Fields = styled('div')({ display: 'grid', gap: 14, marginTop: 12 })
const Pair = styled('div')({ display: 'flex', gap: 12, flexWrap: 'wrap', alignItems: 'center' })

type Props = {
  draft: Draft
  lines: readonly Schemas['OutlookLine'][]
  outlook: Schemas['Outlook'] | undefined
  onChange: (part: Partial<Draft>) => void
}

/** What a first plan does not need: looks, precision, seed, order. */
export function More({ draft, lines, outlook, onChange }: Props) {
  const usual = outlook?.order ?? 'blocks'
  const { stopping } = draft
  const scale = lines.find((line) => line.found.metric === stopping?.metric)?.scale
  const metrics = [...new Map(lines.map((line) => [line.found.metric, line.label]))]
  return (
    <Box as="details">
      <summary>More: early reading of verdicts, precision, order, seed</summary>
      <Fields>
        <Looks draft={draft} outlook={outlook} onChange={onChange} />
        <Pair>
          <span>Stop as soon as every difference is known to within</span>
          <TextField
            size="small"
            label={`Width${scale ? `, ${scale.label}` : ''}`}
            type="number"
            sx={{ width: 130 }}
            key={`width ${stopping?.metric ?? ''}`}
            disabled={!stopping}
            defaultValue={stopping && scale ? stopping.width / scale.factor : ''}
            onChange={(event) => {
              const width = Number(event.target.value) * (scale?.factor ?? 1)
              if (stopping && width > 0) onChange({ stopping: { ...stopping, width } })
            }}
            slotProps={{ htmlInput: { min: 0, step: 'any' } }}
          />
          <span>of</span>
          <Select
            value={stopping?.metric ?? ''}
            inputProps={{ 'aria-label': 'Measure that decides when to stop' }}
            onChange={(event) => {
              const metric = event.target.value
              const line = lines.find((one) => one.found.metric === metric)
              onChange({ stopping: metric ? { metric, width: line?.found.margin ?? 1 } : null })
            }}
          >
            <option value="">nothing: do all repeats</option>
            {metrics.map(([key, label]) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </Select>
        </Pair>
        <Pair>
          <span>Order</span>
          <Select
            value={draft.order ?? ''}
            inputProps={{ 'aria-label': 'Order' }}
            onChange={(event) => onChange({ order: (event.target.value || null) as Draft['order'] })}
          >
            <option value="">as usual: {usual === 'visits' ? 'in visits' : 'shuffled blocks'}</option>
            <option value="blocks">shuffled blocks</option>
            <option value="visits">in visits: A, B, A again</option>
          </Select>
          <SoftSmall>
            Blocks meet slow afternoons alike. Visits spare a person the swapping; time and contender are then
            mixed up, and the return to the first shows how much.
          </SoftSmall>
        </Pair>
        <TextField
          size="small"
          label="Seed"
          type="number"
          defaultValue={draft.seed ?? ''}
          helperText="The number from which the order is drawn; empty: drawn at the start."
          onChange={(event) => onChange({ seed: event.target.value ? Number(event.target.value) : null })}
          slotProps={{ htmlInput: { min: 0, step: 1 } }}
        />
      </Fields>
    </Box>
  )
}
