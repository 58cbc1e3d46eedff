import { useQuery } from '@tanstack/react-query'

import { findingsQuery } from '@/api/queries'
import { GRADES, TERMS } from '@/format/terms'
import { FairGrid } from '@/ui/FairGrid'
import { Sheet, Soft, SoftSmall } from '@/ui/kit'
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
      found.set(difference.key + where, {
        grade: difference.grade,
        sentence: difference.sentence + where,
        remedy: difference.remedy,
      })
    }
  }
  const order = ['breaks', 'weakens', 'note']
  const differences = [...found.values()].sort((a, b) => order.indexOf(a.grade) - order.indexOf(b.grade))
  return (
    <Sheet sx={{ padding: '12px 16px' }}>
      <h2>
        <Term says={TERMS.fair.says}>Fair start</Term>
      </h2>
      <Soft as="div">what differs between the contenders</Soft>
      {findings.isPending && <Loading what="the conditions" />}
      {findings.error && <Soft as="p">{findings.error.message}</Soft>}
      {findings.data && (
        <FairGrid>
          {differences.map((difference) => (
            <div key={difference.sentence}>
              <Tag
                kind={difference.grade}
                word={GRADES[difference.grade]?.word}
                says={GRADES[difference.grade]?.says}
              />
              <span>
                {difference.sentence}
                <SoftSmall>: {difference.remedy}</SoftSmall>
              </span>
            </div>
          ))}
          {differences.length === 0 && (
            <>
              {findings.data.rows.length > 0 && <Tag kind="same" says={GRADES.same?.says} />}
              <span>
                {findings.data.rows.length ? 'every condition that was stated' : 'nothing was read yet'}
              </span>
            </>
          )}
        </FairGrid>
      )}
    </Sheet>
  )
}
