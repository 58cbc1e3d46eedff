import type { FindingRow, ReadingColumns } from '@/api/types'

import { DifferencesPicture } from './DifferencesPicture'
import type { AxisWish, QuotedFigure } from './layout/readingLanes'
import { Abreast } from './marks/Picture'
import { ReadingsPicture } from './ReadingsPicture'

type Props = {
  row: FindingRow
  columns: ReadingColumns
  names: ReadonlyMap<number, string>
  baseline: number
  width: number
  wish?: AxisWish
  quoted?: readonly QuotedFigure[]
  /** Lower lanes, for a page that holds several pictures. */
  isLow?: boolean
}

const TOP = 34
const NARROW = 620

/** Readings lanes beside difference lanes; on narrow pages one above the other. */
export function RowPicture(props: Props) {
  const { row, width, isLow = false } = props
  const hasDifferences = row.lanes.filter((lane) => lane.summary).length > 1
  if (width < NARROW) {
    return (
      <>
        <ReadingsPicture
          {...props}
          frame={{ left: 20, right: width - 22, top: 46, laneHeight: 66 }}
          namesAbove
        />
        {hasDifferences && (
          <DifferencesPicture
            {...props}
            frame={{ left: 40, right: width - 76, top: 46, laneHeight: 66 }}
            withNames
          />
        )}
      </>
    )
  }
  const laneHeight = isLow ? 42 : row.lanes.length > 6 ? 50 : 62
  const left = Math.min(250, Math.max(186, width * 0.24))
  const middle = hasDifferences ? left + (width - left) * 0.58 : width
  return (
    <Abreast widths={hasDifferences ? [middle, width - middle] : []}>
      <ReadingsPicture
        {...props}
        width={middle}
        frame={{ left: left + 12, right: middle - 24, top: TOP, laneHeight }}
      />
      {hasDifferences && (
        <DifferencesPicture
          {...props}
          width={width - middle}
          frame={{ left: 34, right: width - middle - 92, top: TOP, laneHeight }}
        />
      )}
    </Abreast>
  )
}
