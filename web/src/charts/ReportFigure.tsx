import type { Schemas } from '@/api/types'

import { AppearanceContext } from './appearance'
import { BootPartsPicture } from './BootPartsPicture'
import { RowPicture } from './RowPicture'
import { StandingsPicture } from './StandingsPicture'

export type Figure = NonNullable<Schemas['SectionOut']['figure']>
export type LaneShown = Schemas['LaneShownOut']

type Props = { figure: Figure; lanes: readonly LaneShown[]; width: number }

const stay = () => undefined

/** A picture of a report, drawn from what the report itself holds. */
export function ReportFigure({ figure, lanes, width }: Props) {
  const names = new Map(lanes.map((one) => [one.lane_no, one.name]))
  return (
    <AppearanceContext value={new Map(lanes.map((one) => [one.lane_no, one.entrant_no]))}>
      {figure.kind === 'finding' && (
        <RowPicture
          row={figure.row}
          columns={figure.columns}
          names={names}
          baseline={figure.row.leader ?? figure.row.lanes[0]!.lane_no}
          width={width}
          isLow
        />
      )}
      {figure.kind === 'boot parts' && (
        <BootPartsPicture found={figure.parts} names={names} width={width} isLow />
      )}
      {figure.kind === 'standing' && (
        <StandingsPicture page={figure.page} record={null} opened={null} width={width} onOpen={stay} />
      )}
    </AppearanceContext>
  )
}
