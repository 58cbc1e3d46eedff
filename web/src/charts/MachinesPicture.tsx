import type { FindingRow, ReadingColumns } from '@/api/types'

import { sharedSpan } from './layout/machineGrid'
import { Abreast, Note } from './marks/Picture'
import { ReadingsPicture } from './ReadingsPicture'

type Props = {
  rows: readonly FindingRow[]
  columns: ReadingColumns
  names: ReadonlyMap<number, string>
  width: number
}

const TWO_FROM = 700

/** One small picture for each machine, on one axis where that serves. */
export function MachinesPicture({ rows, columns, names, width }: Props) {
  const span = sharedSpan(rows, columns)
  const across = width >= TWO_FROM ? 2 : 1
  const each = Math.floor(width / across)
  return (
    <>
      <Note>
        {span
          ? 'All machines on one axis.'
          : 'Each machine on an axis of its own: they are too far apart for one.'}
      </Note>
      <Abreast widths={Array.from({ length: across }, () => each)}>
        {rows.map((row) => (
          <ReadingsPicture
            key={row.key}
            row={row}
            columns={columns}
            names={names}
            width={each}
            namesAbove
            head={row.machine}
            frame={{ left: 20, right: each - 34, top: 36, laneHeight: 60 }}
            wish={span ? { span } : undefined}
          />
        ))}
      </Abreast>
    </>
  )
}
