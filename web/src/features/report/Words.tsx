import TextField from '@mui/material/TextField'
import { useState } from 'react'

import type { ReportIn } from '@/api/report'
import { Box, SoftSmall } from '@/ui/kit'

type Props = { words: ReportIn; isKept: boolean; onWrite: (more: Partial<ReportIn>) => void }

const FIELDS = [
  { name: 'headline', label: 'Headline', rows: 1, most: 200 },
  { name: 'lead', label: 'Lead (Markdown)', rows: 8, most: 20_000 },
  { name: 'credits', label: 'Credits', rows: 2, most: 20_000 },
] as const

/** The tester's own words; each is kept when its field is left. */
export function Words({ words, isKept, onWrite }: Props) {
  const [typed, setTyped] = useState({ headline: words.headline, lead: words.lead, credits: words.credits })
  return (
    <Box as="section" aria-label="Words" sx={{ display: 'grid', gap: 1.5 }}>
      {FIELDS.map(({ name, label, rows, most }) => (
        <TextField
          key={name}
          label={label}
          value={typed[name]}
          multiline={rows > 1}
          minRows={rows}
          maxRows={16}
          error={name === 'headline' && typed.headline.trim() === ''}
          helperText={name === 'headline' && typed.headline.trim() === '' ? 'a report needs one' : undefined}
          onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
          onBlur={() => {
            if (typed[name] !== words[name] && typed.headline.trim() !== '') onWrite({ [name]: typed[name] })
          }}
          slotProps={{ htmlInput: { maxLength: most } }}
        />
      ))}
      <SoftSmall role="status">{isKept ? 'kept' : 'kept when you leave the field'}</SoftSmall>
    </Box>
  )
}
