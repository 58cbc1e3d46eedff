import { useRef } from 'react'
import { Link } from 'react-router'

import type { Hand } from '@/api/types'
import { moment } from '@/format/numbers'
import { useLinkKeys } from '@/ui/useLinkKeys'

/** What waits for a person, each leading to where it is seen to. */
export function Hands({ hands }: { hands: Hand[] }) {
  const list = useRef<HTMLUListElement>(null)
  useLinkKeys(list, 'Next that needs a hand', 'The one before')
  return (
    <section aria-labelledby="hands-title">
      <h2 id="hands-title" style={{ margin: '14px 0 0' }}>Needs a hand</h2>
      <ul className="hands" ref={list}>
        {hands.map((hand) => (
          <li key={hand.study_id}>
            <Link to={`/studies/${hand.study_id}/run`}>{hand.question}</Link>
            <div>
              {hand.what}
              {hand.since && <span className="soft small"> · since {moment(hand.since)}</span>}
            </div>
          </li>
        ))}
      </ul>
    </section>
  )
}
