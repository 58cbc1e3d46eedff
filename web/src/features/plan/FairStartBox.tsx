import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'

import type { Draft } from '@/api/plan'
import type { Schemas } from '@/api/types'
import { GRADES, TERMS } from '@/format/terms'
import { FairGrid } from '@/ui/FairGrid'
import { Box, Soft, SoftSmall } from '@/ui/kit'
import { Tag } from '@/ui/Tag'
import { Term } from '@/ui/Term'

type Props = {
  draft: Draft
  fair: Schemas['Outlook']['fair'] | undefined
  onChange: (part: Partial<Draft>) => void
}

/** What differs before the first run, and what a person has to see to. */
export function FairStartBox({ draft, fair, onChange }: Props) {
  if (!fair || !draft.installs.length) return null
  const toggle = (key: string) =>
    onChange({
      seen_to: draft.seen_to.includes(key)
        ? draft.seen_to.filter((one) => one !== key)
        : [...draft.seen_to, key],
    })
  return (
    <Box as="section" aria-label="Fair start">
      <h2>
        <Term says={TERMS.fair.says}>Fair start</Term>
      </h2>
      <Soft as="div">by the newest run of each contender; what only a person can see is ticked off</Soft>
      <FairGrid>
        {fair.differences.map((one) => (
          <div key={`${one.key} ${one.values.join()}`}>
            <Tag kind={one.grade} word={GRADES[one.grade]?.word} says={GRADES[one.grade]?.says} />
            <span>
              {one.label}: {one.values.map((value) => value ?? 'not stated').join(', ')}
              <SoftSmall>: {one.remedy}</SoftSmall>
            </span>
          </div>
        ))}
      </FairGrid>
      {fair.unknown.length > 0 && (
        <SoftSmall as="p">Nothing is known yet of {fair.unknown.join('; ')}: it never ran here.</SoftSmall>
      )}
      {fair.checks.map((check) => (
        <FormControlLabel
          key={check.key}
          sx={{ display: 'flex' }}
          control={
            <Checkbox
              size="small"
              checked={draft.seen_to.includes(check.key)}
              onChange={() => toggle(check.key)}
            />
          }
          label={check.says}
        />
      ))}
    </Box>
  )
}
