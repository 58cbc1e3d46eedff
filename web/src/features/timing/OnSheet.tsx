import Button from '@mui/material/Button'
import { Link } from 'react-router'

import type { Waiting } from '@/api/byHand'
import { count } from '@/format/numbers'
import { ownName } from '@/format/ownName'
import { Actions, Box, Soft } from '@/ui/kit'

/** Something else that the sheet asks for: read off and typed in. */
export function OnSheet({
  waiting,
  isOpen,
  onAsk,
}: {
  waiting: Waiting
  isOpen: boolean
  onAsk: (what: 'type' | 'fail' | 'skip') => void
}) {
  return (
    <Box as="section" aria-label={`${waiting.system}: ${waiting.procedure}`}>
      <h2>
        {waiting.system}: {ownName(waiting.conditions.measure) || waiting.procedure}{' '}
        {waiting.conditions.app ?? ''}
      </h2>
      <Soft as="p" sx={{ my: 0.75 }}>
        On {waiting.machine}, repeat {waiting.block} of {waiting.blocks} in{' '}
        <Link to={`/studies/${waiting.study}/run`}>{waiting.title}</Link>; {waiting.finished} of{' '}
        {count(waiting.of, 'run')} done.
      </Soft>
      <Soft as="p" sx={{ my: 0.75 }}>
        Have ready: {waiting.ready}
      </Soft>
      <Actions>
        <Button variant="contained" sx={{ minHeight: 48 }} disabled={!isOpen} onClick={() => onAsk('type')}>
          Type what you read
        </Button>
        <Button variant="outlined" color="inherit" sx={{ minHeight: 48 }} onClick={() => onAsk('fail')}>
          It failed
        </Button>
        <Button color="inherit" sx={{ minHeight: 48 }} onClick={() => onAsk('skip')}>
          Skip
        </Button>
      </Actions>
    </Box>
  )
}
