import type { Schemas } from '@/api/types'
import { cut } from '@/format/cut'
import { token } from '@/theme/tokens'

import { standingsShape, type StandingShape } from './layout/standings'
import { AxisMarks } from './marks/AxisMarks'
import { Pennant } from './marks/Pennant'
import { Picture } from './marks/Picture'

type Props = {
  page: Schemas['StandingsPage']
  record: string | null
  opened: string | null
  width: number
  onOpen: (system: string) => void
}

const LETTER = 7.4
const SMALL_LETTER = 6.5

/** All systems, the best on top; a press on one shows the readings behind it. */
export function StandingsPicture({ page, record, opened, width, onOpen }: Props) {
  const shape = standingsShape(page, width)
  return (
    <Picture
      viewBox={`0 0 ${width} ${shape.height}`}
      height={shape.height}
      role="group"
      aria-label={`Standings: ${page.question?.label}`}
    >
      {shape.bands.map((band) => (
        <g key={band.name}>
          <text x={band.middle} y={14} fontSize="12" textAnchor="middle" className="soft">
            {band.name}
          </text>
          {band.limit !== null && (
            <line
              x1={band.limit}
              x2={band.limit}
              y1={4}
              y2={shape.bottom}
              stroke={token('soft')}
              strokeDasharray="2 4"
              strokeWidth={1.6}
            />
          )}
        </g>
      ))}
      <text x={shape.placeX} y={14} fontSize="12" className="soft">
        place
      </text>
      {shape.studiesX !== null && (
        <text x={shape.studiesX} y={14} fontSize="12" className="soft">
          studies
        </text>
      )}
      {shape.lanes.map((lane) => (
        <Lane
          key={lane.line.standing.system}
          lane={lane}
          isRecord={lane.line.standing.system === record}
          isOpen={lane.line.standing.system === opened}
          width={width}
          left={shape.left}
          placeX={shape.placeX}
          studiesX={shape.studiesX}
          onOpen={onOpen}
        />
      ))}
      {shape.pennant && (
        <Pennant x={shape.pennant.x} top={shape.top} bottom={shape.bottom} side={shape.pennant.side} />
      )}
      <AxisMarks axis={shape.axis} y={shape.bottom} unit={page.scale!.label} />
    </Picture>
  )
}

type LaneProps = {
  lane: StandingShape
  isRecord: boolean
  isOpen: boolean
  width: number
  left: number
  placeX: number
  studiesX: number | null
  onOpen: (system: string) => void
}

function Lane({ lane, isRecord, isOpen, width, left, placeX, studiesX, onOpen }: LaneProps) {
  const { standing, is_older } = lane.line
  const colour = token(isRecord ? 'pine' : 'slate')
  const open = () => onOpen(standing.system)
  return (
    <g
      role="button"
      tabIndex={0}
      aria-expanded={isOpen}
      aria-label={`${standing.system}: ${lane.says}; place ${lane.place}`}
      onClick={open}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return
        event.preventDefault()
        open()
      }}
      cursor="pointer"
    >
      <title>{`${standing.system}: ${lane.says}`}</title>
      <rect x={0} y={lane.y - 20} width={width} height={40} fill={isOpen ? token('chosen') : 'transparent'} />
      <line x1={0} x2={width} y1={lane.y + 20} y2={lane.y + 20} stroke={token('rule')} />
      <text x={14} y={lane.y - 2} fontSize="13.5" className={is_older ? 'soft' : 'strong'}>
        {cut(standing.system, left - 24, LETTER)}
      </text>
      <text x={14} y={lane.y + 13} fontSize="12" className="soft">
        {cut(lane.says, left - 24, SMALL_LETTER)}
      </text>
      {lane.low !== null && lane.high !== null && (
        <rect
          x={lane.low}
          y={lane.y - 11}
          width={Math.max(lane.high - lane.low, 2)}
          height={22}
          fill={standing.is_side_by_side ? colour : 'none'}
          stroke={standing.is_side_by_side ? 'none' : colour}
          strokeDasharray="3 3"
          opacity={standing.is_side_by_side ? (is_older ? 0.16 : 0.3) : 0.8}
        />
      )}
      <rect
        x={lane.x - 2.5}
        y={lane.y - 15}
        width={5}
        height={30}
        rx={2}
        fill={lane.low === null ? 'none' : colour}
        stroke={colour}
        opacity={is_older ? 0.55 : 1}
      />
      <text x={placeX} y={lane.y + 4} fontSize="13.5" className={is_older ? 'soft' : 'strong'}>
        {lane.place}
      </text>
      {studiesX !== null && (
        <text x={studiesX} y={lane.y + 4} fontSize="13" className="soft">
          {standing.studies}
        </text>
      )}
    </g>
  )
}
