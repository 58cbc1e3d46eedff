import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { useOverrule } from '@/api/queries'
import type { FindingRow, Study } from '@/api/types'
import { KeyHint } from '@/ui/KeyHint'
import { MethodLink } from '@/ui/MethodLink'
import { Tag } from '@/ui/Tag'

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

/** What differed at the start; what forbids the comparison can be put up with, for a printed reason. */
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

function Overrule({ study, one }: { study: Study; one: Difference }) {
  const change = useOverrule(study.id)
  const [reason, setReason] = useState('')
  const submit = (event: FormEvent) => {
    event.preventDefault()
    change.mutate({ key: one.key, reason })
  }
  if (one.overruled !== null) {
    return (
      <>
        {' '}
        <button className="link noprint" disabled={change.isPending} onClick={() => change.mutate({ key: one.key, reason: null })}>Compare no more</button>
      </>
    )
  }
  return (
    <form onSubmit={submit} className="overrule noprint">
      <TextField label="Compare nevertheless, because" value={reason} onChange={(event) => setReason(event.target.value)} />
      <Button type="submit" variant="outlined" color="inherit" sx={{ flexShrink: 0 }} disabled={!reason.trim() || change.isPending}>Compare</Button>
      {change.error && <span role="alert">{change.error.message}</span>}
    </form>
  )
}
