import { styled } from '@mui/material/styles'
import { useRef } from 'react'
import { Link } from 'react-router'

import type { ActionNeeded } from '@/api/types'
import { moment } from '@/format/numbers'
import { SoftSmall } from '@/ui/kit'
import { useLinkKeys } from '@/ui/useLinkKeys'

const Needed = styled('section')({
  '& h2': { margin: '14px 0 0' },
  '& ul': { listStyle: 'none', margin: '6px 0 0', padding: 0, borderLeft: '4px solid var(--hm-ochre)' },
  '& li': { padding: '5px 0 6px 14px' },
  '& a': { fontWeight: 650 },
})

/** What waits for a person, each leading to where it is seen to. */
export function ActionsNeeded({ actions }: { actions: ActionNeeded[] }) {
  const list = useRef<HTMLUListElement>(null)
  useLinkKeys(list, 'Next that needs you', 'The one before')
  return (
    <Needed aria-labelledby="actions-title">
      <h2 id="actions-title">Needs you</h2>
      <ul ref={list}>
        {actions.map((action) => (
          <li key={action.study_id}>
            <Link to={`/studies/${action.study_id}/run`}>{action.question}</Link>
            <div>
              {action.what}
              {action.since && <SoftSmall> · since {moment(action.since)}</SoftSmall>}
            </div>
          </li>
        ))}
      </ul>
    </Needed>
  )
}
