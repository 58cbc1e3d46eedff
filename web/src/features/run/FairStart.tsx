import { useQuery } from '@tanstack/react-query'

import { findingsQuery } from '@/api/queries'
import { GRADES, TERMS } from '@/format/terms'
import { Loading } from '@/ui/States'
import { Tag } from '@/ui/Tag'
import { Term } from '@/ui/Term'

/** What differs between the lanes at the start, graded. */
export function FairStart({ studyId }: { studyId: string }) {
  const findings = useQuery(findingsQuery(studyId))
  const found = new Map<string, { grade: string; sentence: string; remedy: string }>()
  for (const row of findings.data?.rows ?? []) {
    for (const difference of row.fair_start) {
      const where = difference.grade === 'breaks' ? ` (${row.label}${row.start ? `, ${row.start}` : ''})` : ''
      found.set(difference.key + where, { grade: difference.grade, sentence: difference.sentence + where, remedy: difference.remedy })
    }
  }
  const order = ['breaks', 'weakens', 'note']
  const differences = [...found.values()].sort((a, b) => order.indexOf(a.grade) - order.indexOf(b.grade))
  return (
    <div className="sheet" style={{ padding: '12px 16px' }}>
      <h2><Term says={TERMS.fair.says}>Fair start</Term></h2>
      <div className="soft">what differs between the contenders</div>
      {findings.isPending && <Loading what="the conditions" />}
      {findings.error && <p className="soft">{findings.error.message}</p>}
      {findings.data && (
        <div className="fair">
          {differences.map((difference) => (
            <div key={difference.sentence} style={{ display: 'contents' }}>
              <Tag kind={difference.grade} word={GRADES[difference.grade]?.word} says={GRADES[difference.grade]?.says} />
              <span>
                {difference.sentence}
                <span className="soft small">: {difference.remedy}</span>
              </span>
            </div>
          ))}
          {differences.length === 0 && (
            <>
              {findings.data.rows.length > 0 && <Tag kind="same" says={GRADES.same?.says} />}
              <span>{findings.data.rows.length ? 'every condition that was stated' : 'nothing was read yet'}</span>
            </>
          )}
        </div>
      )}
    </div>
  )
}
