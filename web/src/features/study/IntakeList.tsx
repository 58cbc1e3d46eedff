import type { Contender, IntakeItem } from '@/api/types'
import { count, moment } from '@/format/numbers'

import { needsLane } from './intakeLanes'

type Props = {
  items: readonly IntakeItem[]
  contenders: readonly Contender[]
  chosen: Readonly<Record<number, number>>
  onChoose: (place: number, lane: number) => void
}

/** What was recognised, one line each, with the contender that it will count for. */
export function IntakeList({ items, contenders, chosen, onChoose }: Props) {
  return (
    <table className="rows intake">
      <thead>
        <tr>
          <th>What it is</th>
          <th>Of</th>
          <th>Counts for</th>
        </tr>
      </thead>
      <tbody>
        {items.map((item, place) => (
          <tr key={place}>
            <td>
              <b>{item.asked}</b>, {count(item.readings, 'reading')}
              <div className="soft small">{[item.file, item.made_at && moment(item.made_at)].filter(Boolean).join(' · ')}</div>
            </td>
            <td>
              {item.system} on {item.machine}
              <Note item={item} />
            </td>
            <td>
              {needsLane(item) ? (
                <select aria-label={`Contender of ${item.file}`} value={chosen[place] ?? item.lane_no ?? ''} onChange={(event) => onChoose(place, Number(event.target.value))}>
                  <option value="" disabled>
                    none fits: choose
                  </option>
                  {contenders.map((contender) => (
                    <option key={contender.id} value={contender.lane_no}>
                      {contender.label}
                    </option>
                  ))}
                </select>
              ) : (
                <span className="soft">{item.is_known ? 'here already' : 'as the file says'}</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Note({ item }: { item: IntakeItem }) {
  if (item.notes.length) return <div className="small">{item.notes.join(' ')}</div>
  if (item.reason) return <div className="small">failed: {item.reason}</div>
  if (!item.faults.length) return null
  return (
    <details className="soft small">
      <summary>{count(item.faults.length, 'thing')} it could not read</summary>
      {item.faults.map((fault) => (
        <div key={fault}>{fault}</div>
      ))}
    </details>
  )
}
