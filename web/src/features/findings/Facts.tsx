import type { Findings, RunSheet, Study } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'

import { factLines } from './factLines'

type Props = { study: Study; findings: Findings; sheet: RunSheet }

/** Contenders side by side; lines on which they differ are marked. */
export function Facts({ study, findings, sheet }: Props) {
  const lines = factLines(study, findings, sheet)
  const differing = lines.filter((line) => line.differs).length
  return (
    <div className="sheet scroll">
      <div className="paneltop">
        <h2>Facts</h2>
        <span className="soft">
          {differing} of {lines.length} differ; those stand first
        </span>
      </div>
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
  )
}
