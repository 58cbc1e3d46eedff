import Tooltip from '@mui/material/Tooltip'
import type { ReactNode } from 'react'

/** A word that explains itself on hover, focus and tap. */
export const Term = ({ says, children }: { says: string; children: ReactNode }) => (
  <Tooltip title={says} describeChild enterTouchDelay={0} leaveTouchDelay={8000}>
    <span className="term" tabIndex={0}>{children}</span>
  </Tooltip>
)
