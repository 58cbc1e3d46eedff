import type { FindingRow, Study } from '@/api/types'
import { KeyHint } from '@/ui/KeyHint'
import { MethodLink } from '@/ui/MethodLink'
import { later } from '@/ui/later'
import { Tag } from '@/ui/Tag'

const Overrule = later(() => import('./Overrule').then((module) => module.Overrule))

type Props = { study: Study; row: FindingRow; isOpen: boolean; onToggle: () => void }

type Difference = FindingRow['fair_start'][number]

/** How many runs count, whether the start was fair, what it speaks of, and the way to the readings. */
export function RowFoot({ study, row, isOpen, onToggle }: Props) {
  const total = (pick: (lane: FindingRow['lanes'][number]) => number) => row.lanes.reduce((sum, lane) => sum + pick(lane), 0)
  const [used, failed, aside] = [total((l) => l.summary?.n ?? 0), total((l) => l.failed), total((l) => l.set_aside)]
  const all = used + failed + aside
  return (
    <div className="foot">
      <span>
        <b>{used}</b> of {all} runs count{failed || aside ? ': ' : ''}
        {[failed ? `${failed} failed` : '', aside ? `${aside} set aside` : ''].filter(Boolean).join(', ')}
      </span>
      <span>
        margin {row.margin_text}; speaks of {row.speaks_of}; {row.family === 1 ? 'one pair' : `${row.family} pairs share the error`}
      </span>
      <MethodLink to="two-lanes" />
      <button className="plain spread noprint" onClick={onToggle} aria-expanded={isOpen}>
        {isOpen ? 'Hide readings' : 'Readings'}
        <KeyHint name="R" />
      </button>
      <FairStart study={study} found={row.fair_start} />
    </div>
  )
}

/** What differed at the start; what forbids the comparison can be accepted, for a printed reason. */
function FairStart({ study, found }: { study: Study; found: readonly Difference[] }) {
  if (!found.length) return <span>Fair start: <b>the same</b></span>
  return (
    <details className="fairrow" open={found.some((one) => one.grade === 'breaks' && one.overruled === null)}>
      <summary>Fair start: <b>{found.map((one) => `${one.grade} (${one.label})`).join(', ')}</b></summary>
      <div className="fair">
        {found.map((one) => (
          <div key={one.key} style={{ display: 'contents' }}>
            <Tag word={one.grade} />
            <span>
              {one.sentence}
              {one.overruled === null && <span>: {one.remedy}</span>}
              {one.grade === 'breaks' && <Overrule study={study} one={one} />}
            </span>
          </div>
        ))}
      </div>
    </details>
  )
}
