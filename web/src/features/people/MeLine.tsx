import Button from '@mui/material/Button'

import { useSignOut } from '@/api/people'
import { forgetPageSecret } from '@/api/session'
import type { Schemas } from '@/api/types'
import { Actions } from '@/ui/kit'

import { ROLES } from './words'

/** Who this browser is signed in as. */
export function MeLine({ me }: { me: Schemas['WhoOut'] }) {
  const out = useSignOut()
  const leave = () =>
    out.mutate(undefined, {
      onSuccess: () => {
        forgetPageSecret()
        window.location.assign('/enter')
      },
    })
  return (
    <Actions>
      <span>
        Signed in as <b>{me.name}</b>, who {ROLES[me.role]}
        {me.way === 'paired device' && '; this is a paired device'}
      </span>
      <Button variant="outlined" color="inherit" size="small" onClick={leave} disabled={out.isPending}>
        Sign out
      </Button>
    </Actions>
  )
}
