import { styled } from '@mui/material/styles'

import { actFacts, actWords } from '@/format/acts'
import { moment } from '@/format/numbers'

import { SoftSmall } from './kit'

export type ActLine = {
  id: number
  at: string
  who: string
  what: string
  facts: Record<string, unknown>
}

const Lines = styled('ol')({
  listStyle: 'none',
  margin: 0,
  padding: 0,
  '& li': { padding: '6px 0', borderTop: '1px solid var(--hm-rule)' },
  '& li:first-of-type': { borderTop: 0 },
})

/** What was done, when and by whom, the newest first. */
export const ActLines = ({ acts }: { acts: readonly ActLine[] }) => (
  <Lines>
    {acts.map((act) => (
      <li key={act.id}>
        {act.who} {actWords(act.what)}
        <SoftSmall as="div">{[moment(act.at), actFacts(act.facts)].filter(Boolean).join(' · ')}</SoftSmall>
      </li>
    ))}
  </Lines>
)
