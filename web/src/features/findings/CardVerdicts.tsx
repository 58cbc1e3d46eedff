import { styled } from '@mui/material/styles'

import type { Findings } from '@/api/types'
import { MIDDLE, Soft } from '@/ui/kit'
import { Tag } from '@/ui/Tag'
import { procedureWord } from '@/format/procedureWord'

import { measureSaid, tagKind } from './rowWords'
import { VerdictList } from './VerdictList'

const Abreast = styled(VerdictList)({
  columns: 2,
  columnGap: 28,
  [MIDDLE]: { columns: 1 },
  '& .verdict': { padding: '5px 0', breakInside: 'avoid' },
})

type Line = { key: string; what: string; where: string; kind: string | null; word: string; says: string }

/** A line for each measure: over all machines where there are several, else the row's own. */
export function cardLines({ machines, rows, reliability }: Findings, isManyMachines: boolean): Line[] {
  const nameOf = (row: { metric: string; method: string; start: string | null; facet: string }) =>
    [row.metric, row.method, row.start, row.facet].join('|')
  const covered = new Set(machines.map(nameOf))
  const where = (machine: string) => (isManyMachines ? machine : '')
  const own = (machine: string, sentence: string) => sentence.replace(`${machine}: `, '')
  return [
    ...machines.map((row) => ({
      key: row.key,
      what: measureSaid(row),
      where: `${row.leaders.length} machines`,
      kind: null,
      word: '',
      says: row.sentence,
    })),
    ...rows
      .filter((row) => !covered.has(nameOf(row)))
      .map((row) => ({
        key: row.key,
        what: measureSaid(row),
        where: where(row.machine),
        kind: tagKind(row),
        word: row.verdict_text,
        says: own(row.machine, row.sentence),
      })),
    ...reliability.map((row) => ({
      key: `${row.procedure} ${row.machine}`,
      what: `Reliability, ${procedureWord(row.procedure)}`,
      where: where(row.machine),
      kind: row.verdict,
      word: row.verdict_text,
      says: own(row.machine, row.sentence),
    })),
  ]
}

/** Every verdict in its sentence. */
export const CardVerdicts = ({
  findings,
  isManyMachines,
}: {
  findings: Findings
  isManyMachines: boolean
}) => (
  <Abreast className="verdicts">
    {cardLines(findings, isManyMachines).map((line) => (
      <li key={line.key} className="verdict">
        <span className="what">
          {line.what}
          {line.where && <Soft> on {line.where}</Soft>}
        </span>
        {line.kind ? <Tag kind={line.kind} word={line.word} /> : <span />}
        <span className="says">{line.says}</span>
      </li>
    ))}
  </Abreast>
)
