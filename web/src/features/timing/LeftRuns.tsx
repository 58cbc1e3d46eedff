import Button from '@mui/material/Button'
import { Link } from 'react-router'

import { usePlanAgain } from '@/api/queries'
import { Actions, Box, Soft, WordList } from '@/ui/kit'

import type { Asked } from './race'

export const MOST_LEFT = 12

/** A run of the sheet that failed or was skipped here. */
export type Left = Asked & { system: string; why: string }

/** Runs that failed or were skipped at this device, each to be done again. */
export function LeftRuns({ left, onGone }: { left: readonly Left[]; onGone: (run: string) => void }) {
  const again = usePlanAgain()
  if (!left.length) return null
  return (
    <Box as="section" aria-label="Failed or skipped">
      <h2>Failed or skipped</h2>
      <WordList>
        {left.map((one) => (
          <li key={one.run}>
            {one.system}: {one.why} <Link to={`/studies/${one.study}/run`}>its study</Link>
            <Actions>
              <Button
                variant="outlined"
                color="inherit"
                sx={{ minHeight: 44 }}
                disabled={again.isPending}
                onClick={() => again.mutate(one.run, { onSuccess: () => onGone(one.run) })}
              >
                Do it again
              </Button>
              <Button color="inherit" sx={{ minHeight: 44 }} onClick={() => onGone(one.run)}>
                Dismiss
              </Button>
            </Actions>
          </li>
        ))}
      </WordList>
      {again.error && <Soft role="alert">{again.error.message}</Soft>}
    </Box>
  )
}
