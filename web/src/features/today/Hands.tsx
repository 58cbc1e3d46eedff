import { useRef } from 'react'
import { Link } from 'react-router'

import type { Hand } from '@/api/types'
import { moment } from '@/format/numbers'
import { useShortcuts } from '@/ui/shortcuts'

/** What waits for a person, each leading to where it is seen to. */
export function Hands({ hands }: { hands: Hand[] }) {
  const list = useRef<HTMLUListElement>(null)
  const move = (by: number) => {
    const links = [...(list.current?.querySelectorAll('a') ?? [])]
    const at = links.indexOf(document.activeElement as HTMLAnchorElement)
    links[at < 0 ? 0 : Math.max(0, Math.min(links.length - 1, at + by))]?.focus()
  }
  useShortcuts([
    { key: 'ArrowDown', shown: '↓', says: 'Next that needs a hand', run: () => move(1) },
    { key: 'ArrowUp', shown: '↑', says: 'The one before', run: () => move(-1) },
  ])
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
