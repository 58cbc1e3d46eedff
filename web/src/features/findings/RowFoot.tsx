import { styled } from '@mui/material/styles'

import type { FindingRow, Study } from '@/api/types'
import { count } from '@/format/numbers'
import { GRADES, TERMS } from '@/format/terms'
import { FairGrid } from '@/ui/FairGrid'
import { KeyHint } from '@/ui/KeyHint'
import { Foot, Plain } from '@/ui/kit'
import { later } from '@/ui/later'
import { MethodLink } from '@/ui/MethodLink'
import { Tag } from '@/ui/Tag'
import { Term } from '@/ui/Term'

const Override = later(() => import('./Override').then((module) => module.Override))

const Differences = styled('details')({ flexBasis: '100%', '& summary': { cursor: 'pointer' } })

type Props = { study: Study; row: FindingRow; isOpen: boolean; onToggle: () => void }

type Difference = FindingRow['fair_start'][number]

/** How many runs count, whether the start was fair, what it speaks of, and the way to the readings. */
export function RowFoot({ study, row, isOpen, onToggle }: Props) {
  const total = (pick: (lane: FindingRow['lanes'][number]) => number) =>
    row.lanes.reduce((sum, lane) => sum + pick(lane), 0)
  const [used, failed, aside, corrected] = [
    total((l) => l.summary?.n ?? 0),
    total((l) => l.failed),
    total((l) => l.set_aside),
    total((l) => l.corrected),
  ]
  const all = used + failed + aside
  return (
    <Foot>
      <span>
        <b>{used}</b> of {all} runs count{failed || aside ? ': ' : ''}
        {[failed ? `${failed} failed` : '', aside ? `${aside} set aside` : ''].filter(Boolean).join(', ')}
        {corrected ? `; ${count(corrected, 'reading')} corrected by hand` : ''}
      </span>
      <span>
        <Term says={TERMS.margin.says}>margin</Term> {row.margin_text}; holds for these installs on this
        machine{row.family === 1 ? '' : `; the allowed error is shared over ${row.family} pairs`}
      </span>
      <MethodLink to="two-lanes" />
      <Plain className="spread noprint" onClick={onToggle} aria-expanded={isOpen}>
        {isOpen ? 'Hide readings' : 'Readings'}
        <KeyHint name="R" />
      </Plain>
      <FairStart study={study} found={row.fair_start} />
    </Foot>
  )
}

/** What differed at the start; what forbids the comparison can be accepted, for a printed reason. */
function FairStart({ study, found }: { study: Study; found: readonly Difference[] }) {
  if (!found.length)
    return (
      <span>
        <Term says={TERMS.fair.says}>Fair start</Term>: <b>all started alike</b>
      </span>
    )
  return (
    <Differences open={found.some((one) => one.grade === 'breaks' && one.overridden === null)}>
      <summary>
        Fair start:{' '}
        <b>{found.map((one) => `${GRADES[one.grade]?.word ?? one.grade} (${one.label})`).join(', ')}</b>
      </summary>
      <FairGrid>
        {found.map((one) => (
          <div key={one.key}>
            <Tag kind={one.grade} word={GRADES[one.grade]?.word} says={GRADES[one.grade]?.says} />
            <span>
              {one.sentence}
              {one.overridden === null && <span>: {one.remedy}</span>}
              {one.grade === 'breaks' && <Override study={study} one={one} />}
            </span>
          </div>
        ))}
      </FairGrid>
    </Differences>
  )
}
