import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import { styled } from '@mui/material/styles'
import { useEffect, useRef, useState } from 'react'

import type { FindingRow, Findings } from '@/api/types'
import { GRADES, VERDICTS } from '@/format/terms'
import { KeyHint } from '@/ui/KeyHint'
import { MIDDLE, Sheet, Soft, SoftSmall } from '@/ui/kit'
import { MethodLink } from '@/ui/MethodLink'
import { Tag } from '@/ui/Tag'

import { Chooser } from '@/ui/Chooser'
import { procedureWord } from '@/format/procedureWord'
import { measureSaid, tagKind } from './rowWords'
import { VerdictList } from './VerdictList'

type Props = {
  findings: Findings
  /** The rows to be shown, in the order that the person gave them. */
  rows: readonly FindingRow[]
  chosen: string
  verdict: string
  withAside: boolean
  onAside: () => void
  onChoose: (key: string) => void
  onVerdict: (verdict: string) => void
  onReliability: () => void
  onMove: (key: string, before: string) => void
}

const Own = styled(Sheet)({
  position: 'sticky',
  top: 12,
  maxHeight: 'max(340px,calc(100vh - 240px))',
  overflowY: 'auto',
  [MIDDLE]: { position: 'static', maxHeight: 'none' },
  '@media print': { position: 'static', maxHeight: 'none' },
})

/** What of the start is said in the sheet: the gravest grade, and how many differences bear it. */
function startSaid(row: FindingRow): string {
  const grade = ['breaks', 'weakens'].find((one) =>
    row.fair_start.some((difference) => difference.grade === one && difference.overridden === null),
  )
  return grade
    ? `${GRADES[grade]?.word}: ${row.fair_start
        .filter((one) => one.grade === grade)
        .map((one) => one.label)
        .join(', ')} differ`
    : ''
}

/** Scrolls the list, and not the page, so that the picture stays where it is. */
function keepInView(list: HTMLElement | null, line: HTMLElement | null) {
  if (!list || !line) return
  const [frame, at] = [list.getBoundingClientRect(), line.getBoundingClientRect()]
  if (at.top < frame.top) list.scrollTop -= frame.top - at.top
  if (at.bottom > frame.bottom) list.scrollTop += at.bottom - frame.bottom
}

/** Whether another row has the same name, so that only the method tells them apart. */
const isTwice = (row: FindingRow, rows: readonly FindingRow[]) =>
  rows.some(
    (one) =>
      one !== row &&
      one.label === row.label &&
      one.machine === row.machine &&
      one.start === row.start &&
      one.facet === row.facet,
  )

/** A line for each measure, machine and condition: verdict and sentence. */
export function VerdictSheet({
  findings,
  rows,
  chosen,
  verdict,
  withAside,
  onAside,
  onChoose,
  onVerdict,
  onReliability,
  onMove,
}: Props) {
  const verdicts = [...new Set([...findings.rows, ...findings.reliability].map((row) => row.verdict))]
  const reliable = findings.reliability.filter((row) => !verdict || row.verdict === verdict)
  const [dragged, setDragged] = useState<string | null>(null)
  const machines = new Set(findings.rows.map((row) => row.machine))
  const list = useRef<HTMLDivElement>(null)
  const current = useRef<HTMLButtonElement>(null)
  useEffect(() => keepInView(list.current, current.current), [chosen])
  const hasAside = findings.rows.some((row) => row.lanes.some((lane) => lane.set_aside > 0))
  const decided = findings.rows.filter(
    (row) => row.is_shared || !['undecided', 'not comparable'].includes(row.verdict),
  ).length
  return (
    <Own ref={list}>
      <VerdictList className="verdicts">
        <li>
          <header>
            <h2>Verdicts</h2>
            <SoftSmall as="div">
              {decided} of {findings.rows.length} decided. {findings.expected_false}{' '}
              <MethodLink to="the-verdict" />
            </SoftSmall>
            {(withAside || hasAside) && (
              <FormControlLabel
                control={<Checkbox size="small" checked={withAside} onChange={onAside} />}
                sx={{ display: 'flex' }}
                label={
                  <>
                    with what was set aside
                    <KeyHint name="W" />
                  </>
                }
              />
            )}
            {verdicts.length > 1 && (
              <Chooser
                label="show"
                chosen={verdict}
                keyName="F"
                onChoose={onVerdict}
                options={[
                  { id: '', label: 'every verdict' },
                  ...verdicts.map((one) => ({ id: one, label: one })),
                ]}
              />
            )}
          </header>
        </li>
        {rows.map((row) => (
          <li
            key={row.key}
            draggable
            onDragStart={() => setDragged(row.key)}
            onDragOver={(event) => event.preventDefault()}
            onDrop={() => dragged !== null && onMove(dragged, row.key)}
          >
            <button
              className="verdict"
              ref={row.key === chosen ? current : null}
              aria-current={row.key === chosen}
              onClick={() => onChoose(row.key)}
            >
              <span className="what">
                {measureSaid(row)}
                {isTwice(row, findings.rows) && <Soft> ({row.method.replaceAll('-', ' ')})</Soft>}
                {machines.size > 1 && <Soft> on {row.machine}</Soft>}
              </span>
              <Tag
                kind={tagKind(row)}
                word={row.verdict_text}
                says={VERDICTS[row.is_shared ? 'shared' : row.verdict]}
              />
              <span className="says">
                {row.sentence.replace(`${row.machine}: `, '')}
                {startSaid(row) && <i> {startSaid(row)}</i>}
              </span>
            </button>
          </li>
        ))}
        {reliable.map((row) => (
          <li key={`${row.procedure} ${row.machine}`}>
            <button className="verdict" onClick={onReliability}>
              <span className="what">
                Reliability, {procedureWord(row.procedure)}
                {machines.size > 1 && <Soft> on {row.machine}</Soft>}
              </span>
              <Tag kind={row.verdict} word={row.verdict_text} />
              <span className="says">{row.sentence}</span>
            </button>
          </li>
        ))}
      </VerdictList>
    </Own>
  )
}
