import { useRef } from 'react'
import { Link } from 'react-router'

import type { ActionNeeded } from '@/api/types'
import { moment } from '@/format/numbers'
import { useLinkKeys } from '@/ui/useLinkKeys'

/** What waits for a person, each leading to where it is seen to. */
export function ActionsNeeded({ actions }: { actions: ActionNeeded[] }) {
  const list = useRef<HTMLUListElement>(null)
  useLinkKeys(list, 'Next that needs you', 'The one before')
  return (
    <section aria-labelledby="actions-title">
      <h2 id="actions-title" style={{ margin: '14px 0 0' }}>Needs you</h2>
      <ul className="needed" ref={list}>
        {actions.map((action) => (
          <li key={action.study_id}>
            <Link to={`/studies/${action.study_id}/run`}>{action.question}</Link>
            <div>
              {action.what}
              {action.since && <span className="soft small"> · since {moment(action.since)}</span>}
            </div>
          </li>
        ))}
      </ul>
    </section>
  )
}
