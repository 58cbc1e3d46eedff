import { styled } from '@mui/material/styles'
import Tooltip from '@mui/material/Tooltip'
import type { ReactNode } from 'react'

const Word = styled('span')({ textDecoration: 'underline dotted', textUnderlineOffset: 3, cursor: 'help' })

/** A word that explains itself on hover, focus and tap. */
export const Term = ({ says, children }: { says: string; children: ReactNode }) => (
  <Tooltip title={says} describeChild enterTouchDelay={0} leaveTouchDelay={8000}>
    <Word tabIndex={0}>{children}</Word>
  </Tooltip>
)
