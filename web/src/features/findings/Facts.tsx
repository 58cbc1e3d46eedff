import { useRef } from 'react'

import type { Findings, RunSheet, Study } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'
import { csvOf } from '@/format/table'

import { factLines } from './factLines'
import { KeepButtons } from './KeepButtons'

type Props = { study: Study; findings: Findings; sheet: RunSheet }

/** Contenders side by side; lines on which they differ are marked. */
export function Facts({ study, findings, sheet }: Props) {
  const lines = factLines(study, findings, sheet)
  const box = useRef<HTMLElement>(null)
  const says = `${lines.filter((line) => line.differs).length} of ${lines.length} differ; those stand first`
  const head = ['fact', ...study.contenders.map((one) => one.label)]
  return (
    <section className="sheet" aria-label="Facts" ref={box}>
      <div className="paneltop">
        <h2>Facts</h2>
        <span className="soft">{says}</span>
      </div>
      <div className="scroll" tabIndex={0} role="group" aria-label="Facts of the contenders">
      <table className="rows">
        <caption className="hidden">Facts of the contenders side by side</caption>
        <thead>
          <tr>
            <th />
            {study.contenders.map((one) => (
              <th key={one.id}>
                <LaneSign laneNo={one.lane_no} />
                {one.label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.label} className={line.differs ? 'differs' : ''}>
              <th scope="row">{line.label}</th>
              {line.values.map((value, i) => (
                <td key={study.contenders[i]!.id} className={value === null ? 'soft' : ''}>
                  {value ?? 'not stated'}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      </div>
      <div className="foot noprint">
        <KeepButtons box={box} hasPicture={false} name={[study.title, 'facts']} data={() => csvOf({ head, rows: lines.map((line) => [line.label, ...line.values]) })} head={['Facts', says]} />
      </div>
    </section>
  )
}
