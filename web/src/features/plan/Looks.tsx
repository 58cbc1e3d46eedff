import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useState } from 'react'

import type { Draft } from '@/api/plan'
import type { Schemas } from '@/api/types'
import { Actions, SoftSmall } from '@/ui/kit'
import { Select } from '@/ui/Select'

import { everyBlock, isEveryBlock, numbersIn } from './draft'
import { looksCost } from './outlookWords'

const Line = styled(Actions)({ alignItems: 'center' })

type When = 'end' | 'every' | 'some'
type Props = {
  draft: Draft
  outlook: Schemas['Outlook'] | undefined
  onChange: (part: Partial<Draft>) => void
}

/** When verdicts are read, and what that costs. */
export function Looks({ draft, outlook, onChange }: Props) {
  const { blocks, interim_looks: looks } = draft
  const [when, setWhen] = useState<When>(() =>
    looks.length === 0 ? 'end' : isEveryBlock(looks) ? 'every' : 'some',
  )
  const choose = (next: When) => {
    setWhen(next)
    onChange({ interim_looks: next === 'every' ? everyBlock(blocks) : [] })
  }
  return (
    <div>
      <Line>
        <span>Verdicts are read</span>
        <Select
          value={when}
          inputProps={{ 'aria-label': 'When verdicts are read' }}
          onChange={(event) => choose(event.target.value as When)}
        >
          <option value="end">once, at the end</option>
          <option value="every">after every block</option>
          <option value="some">after some blocks</option>
        </Select>
        {when === 'some' && (
          <TextField
            size="small"
            label="After blocks"
            placeholder="10, 15, 20"
            key={`looks ${blocks}`}
            defaultValue={looks.join(', ')}
            helperText={`The last one is the last block, ${blocks}.`}
            onChange={(event) => onChange({ interim_looks: numbersIn(event.target.value) })}
          />
        )}
      </Line>
      {when !== 'end' && (
        <SoftSmall as="p">
          The looks share the allowed error.{' '}
          {when === 'every' &&
            'The study ends by itself at the first block at which all that it asks is decided. '}
          {outlook && looksCost(outlook, blocks)}
        </SoftSmall>
      )}
    </div>
  )
}
