import { styled } from '@mui/material/styles'
import Tooltip from '@mui/material/Tooltip'

import { HEADING } from '@/theme/theme'

const GOOD = { color: 'var(--hm-pine)' }
const OPEN = { color: 'var(--hm-ochre)', borderStyle: 'dashed' }
const BAD = { color: 'var(--hm-rust)', borderStyle: 'dotted' }
const LOOKS: Readonly<Record<string, object>> = {
  ahead: GOOD,
  lower: GOOD,
  same: GOOD,
  level: { color: 'var(--hm-slate)' },
  undecided: OPEN,
  note: OPEN,
  behind: BAD,
  higher: BAD,
  'not comparable': BAD,
  breaks: BAD,
  weakens: BAD,
  failed: BAD,
}

const Word = styled('span')({
  display: 'inline-block',
  font: `650 12px ${HEADING}`,
  padding: '1px 8px',
  borderRadius: 9,
  border: '1.5px solid',
  whiteSpace: 'nowrap',
  justifySelf: 'end',
  alignSelf: 'start',
})

type Props = {
  /** What it is, which gives its border. */
  kind: string
  word?: string
  /** What the word means, on hover and tap. */
  says?: string
}

/** A word in its own border: dash and dots tell what colour alone would not. */
export const Tag = ({ kind, word = kind, says = '' }: Props) => (
  <Tooltip title={says} describeChild enterTouchDelay={0}>
    <Word className="tag" sx={LOOKS[kind] ?? {}}>
      {word}
    </Word>
  </Tooltip>
)
