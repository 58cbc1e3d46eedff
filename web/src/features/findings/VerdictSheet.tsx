import { useEffect, useRef } from 'react'

import type { FindingRow, Findings } from '@/api/types'
import { MethodLink } from '@/ui/MethodLink'
import { Tag } from '@/ui/Tag'

type Props = { findings: Findings; chosen: string; onChoose: (key: string) => void }

const startOf = (row: FindingRow) => (row.start ? `, ${row.start.replaceAll('-', ' ')}` : '')

/** A line for each measure, machine and condition: verdict and sentence. */
export function VerdictSheet({ findings, chosen, onChoose }: Props) {
  const machines = new Set(findings.rows.map((row) => row.machine))
  const current = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    void current.current?.scrollIntoView({ block: 'nearest' })
  }, [chosen])
  const decided = findings.rows.filter((row) => !['open', 'not comparable'].includes(row.verdict)).length
  return (
    <div className="sheet">
      <ul className="verdicts">
        <li>
          <header>
            <h2>Verdicts</h2>
            <div className="soft small">
              {decided} of {findings.rows.length} decided. {findings.promise}{' '}
              <MethodLink to="the-verdict" />
            </div>
          </header>
        </li>
        {findings.rows.map((row) => (
          <li key={row.key}>
            <button
              className="verdict"
              ref={row.key === chosen ? current : null}
              aria-current={row.key === chosen}
              onClick={() => onChoose(row.key)}
            >
              <span className="what">
                {row.label}
                {startOf(row)}
                {machines.size > 1 && <span className="soft"> on {row.machine}</span>}
              </span>
              <Tag word={row.verdict} />
              <span className="says">{row.sentence}</span>
            </button>
          </li>
        ))}
        {findings.reliability.map((row) => (
          <li key={`${row.procedure} ${row.machine}`} className="verdict" style={{ cursor: 'default' }}>
            <span className="what">
              Reliability, {row.procedure} <MethodLink to="reliability" says="how?" />
            </span>
            <Tag word={row.verdict} />
            <span className="says">{row.sentence}</span>
          </li>
        ))}
      </ul>
    </div>
  )
}
