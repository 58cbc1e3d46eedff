import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import { styled } from '@mui/material/styles'
import { useState } from 'react'

import type { ReportPart } from '@/api/report'
import { Box, Plain } from '@/ui/kit'

import { moved } from './parts'

type Props = { parts: readonly ReportPart[]; onChange: (parts: ReportPart[]) => void }

const List = styled('ol')({
  listStyle: 'none',
  margin: 0,
  padding: 0,
  display: 'grid',
  gap: 2,
  '& li': { display: 'grid', gridTemplateColumns: '1fr auto auto', alignItems: 'center', gap: 4 },
})

const FEW = 14

/** What the report shows, in its order. */
export function PartList({ parts, onChange }: Props) {
  const [isLong, setLong] = useState(false)
  const shown = isLong ? parts : parts.filter((part, i) => part.is_shown || i < FEW)
  const put = (part: ReportPart, more: Partial<ReportPart>) =>
    onChange(parts.map((one) => (one === part ? { ...one, ...more } : one)))
  return (
    <Box as="section" aria-label="Parts of the report">
      <List>
        {shown.map((part) => (
          <li key={`${part.kind} ${part.key}`}>
            <FormControlLabel
              control={
                <Checkbox
                  size="small"
                  checked={part.is_shown}
                  onChange={(_, isShown) => put(part, { is_shown: isShown })}
                />
              }
              label={part.title}
            />
            <Plain
              aria-label={`Move ${part.title} up`}
              disabled={part === parts[0]}
              onClick={() => onChange(moved(parts, part, -1))}
            >
              ↑
            </Plain>
            <Plain
              aria-label={`Move ${part.title} down`}
              disabled={part === parts.at(-1)}
              onClick={() => onChange(moved(parts, part, 1))}
            >
              ↓
            </Plain>
          </li>
        ))}
      </List>
      {shown.length < parts.length && (
        <Plain onClick={() => setLong(true)}>{parts.length - shown.length} parts more</Plain>
      )}
    </Box>
  )
}
