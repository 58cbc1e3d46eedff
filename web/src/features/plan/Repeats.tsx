import TextField from '@mui/material/TextField'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import { useState } from 'react'

import type { Draft } from '@/api/plan'
import { TERMS } from '@/format/terms'
import { Actions, Box, SoftSmall } from '@/ui/kit'
import { Term } from '@/ui/Term'

import { REPEATS, withBlocks } from './draft'

type Props = { draft: Draft; onChange: (part: Partial<Draft>) => void }

/** How often each contender has its turn. */
export function Repeats({ draft, onChange }: Props) {
  const [text, setText] = useState(String(draft.blocks))
  const set = (blocks: number) => {
    setText(String(blocks))
    onChange(withBlocks(draft, blocks))
  }
  const known = REPEATS.find((one) => one.blocks === draft.blocks)
  return (
    <Box as="section" aria-label="Repeats">
      <h2>
        <Term says={TERMS.block.says}>Repeats</Term>
      </h2>
      <Actions sx={{ alignItems: 'center', mt: 1 }}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={known?.blocks ?? null}
          aria-label="Usual numbers of repeats"
          onChange={(_, blocks: number | null) => blocks && set(blocks)}
        >
          {REPEATS.map((one) => (
            <ToggleButton key={one.name} value={one.blocks}>
              {one.name} {one.blocks}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <TextField
          size="small"
          label="Repeats"
          type="number"
          value={text}
          error={Number(text) !== draft.blocks}
          sx={{ width: 110 }}
          onChange={(event) => {
            const blocks = Math.floor(Number(event.target.value))
            setText(event.target.value)
            if (blocks >= 1 && blocks <= 500) onChange(withBlocks(draft, blocks))
          }}
          slotProps={{ htmlInput: { min: 1, max: 500 } }}
        />
        <SoftSmall>{known?.says ?? 'of each contender'}</SoftSmall>
      </Actions>
    </Box>
  )
}
