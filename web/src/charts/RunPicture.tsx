import type { RunSheet } from '@/api/types'
import { amount, percent } from '@/format/numbers'
import { token } from '@/theme/tokens'

import { useAppearance } from './appearance'
import { runLanes, type RunLane, type RunMark } from './layout/runLanes'
import { Cross } from './marks/Cross'
import { LaneMark } from './marks/LaneMark'
import { Picture } from './marks/Picture'

type Props = {
  sheet: RunSheet
  names: ReadonlyMap<number, string>
  /** What a run under way is doing now, by its id. */
  stages: ReadonlyMap<string, string>
  /** What a person noted while a run was under way, by its id. */
  disturbed: ReadonlyMap<string, string>
  width: number
  onOpen: (runId: string) => void
}

const NARROW = 620

/** Each mark is a run, above or below its lane's median so far. */
export function RunPicture({ sheet, names, stages, disturbed, width, onOpen }: Props) {
  const isNarrow = width < NARROW
  const frame = isNarrow
    ? { left: 12, right: width - 12, laneHeight: 98, lineAt: 68 }
    : { left: Math.min(270, width * 0.22), right: width - 150, laneHeight: 60, lineAt: 31 }
  const shapes = runLanes(sheet, [...names.keys()], frame)
  const height = shapes.height + 24
  return (
    <Picture viewBox={`0 0 ${width} ${height}`} role="group" aria-label="Runs of each lane in their order">
      {shapes.lanes.map((lane) => (
        <g key={lane.laneNo} transform={`translate(0 ${lane.y})`}>
          <LaneHead
            lane={lane}
            name={names.get(lane.laneNo) ?? ''}
            sheet={sheet}
            isNarrow={isNarrow}
            width={width}
            room={frame.left}
          />
          <line
            x1={frame.left - 8}
            x2={frame.right}
            y1={frame.lineAt}
            y2={frame.lineAt}
            stroke={token('rule')}
            strokeDasharray="2 5"
          />
          {lane.marks.map((mark) => (
            <Mark
              key={mark.run.id}
              mark={mark}
              laneNo={lane.laneNo}
              y={frame.lineAt}
              r={shapes.markRadius}
              stage={stages.get(mark.run.id)}
              noted={disturbed.get(mark.run.id)}
              onOpen={onOpen}
            />
          ))}
          <line x1={0} x2={width} y1={frame.laneHeight} y2={frame.laneHeight} stroke={token('rule')} />
        </g>
      ))}
      <text x={frame.left} y={height - 7} fontSize="12" className="soft">
        {isNarrow
          ? 'marks: runs above or below the lane’s median so far'
          : `each mark is a run above (longer) or below (shorter) its lane’s median so far: ${sheet.label?.toLowerCase() ?? 'nothing measured yet'}`}
      </text>
    </Picture>
  )
}

type HeadProps = {
  lane: RunLane
  name: string
  sheet: RunSheet
  isNarrow: boolean
  width: number
  room: number
}

function LaneHead({ lane, name, sheet, isNarrow, width, room }: HeadProps) {
  const most = isNarrow ? 30 : Math.floor((room - 26) / 7.4)
  const short = name.length > most ? `${name.slice(0, most - 1)}…` : name
  const value = lane.median !== null && sheet.scale ? amount(lane.median, sheet.scale) : ''
  return (
    <g>
      <title>{name}</title>
      <text x={14} y={isNarrow ? 18 : 25} fontSize="14" className="strong">
        {short}
      </text>
      <LaneMark laneNo={lane.laneNo} x={20} y={isNarrow ? 32 : 40} r={5} />
      <text x={31} y={isNarrow ? 37 : 44} fontSize="13" className="soft">
        {lane.done} of {lane.planned} runs
      </text>
      <text
        x={width - 16}
        y={isNarrow ? 20 : 28}
        fontSize={isNarrow ? 15 : 17}
        textAnchor="end"
        className="strong"
      >
        {value}
      </text>
      {value && !isNarrow && (
        <text x={width - 16} y={45} fontSize="12" textAnchor="end" className="soft">
          {spreadSaid(sheet, lane.laneNo)}
        </text>
      )}
    </g>
  )
}

function spreadSaid(sheet: RunSheet, laneNo: number): string {
  const share = sheet.lanes.find((lane) => lane.lane_no === laneNo)?.half_width_share
  return share === null || share === undefined ? 'median so far' : `interval ± ${percent(share)}`
}

type MarkProps = {
  mark: RunMark
  laneNo: number
  y: number
  r: number
  stage: string | undefined
  noted: string | undefined
  onOpen: (id: string) => void
}

function Mark(props: MarkProps) {
  const { mark, y, noted } = props
  return (
    <g>
      <RunSign {...props} />
      {noted !== undefined && (
        <g data-testid="disturbed">
          <title>{noted}</title>
          <line
            x1={mark.x}
            x2={mark.x}
            y1={y - 26}
            y2={y + 26}
            stroke={token('ochre')}
            strokeWidth={1.5}
            strokeDasharray="3 3"
          />
          <path d={`M${mark.x - 5},${y - 27}h10l-5,7z`} fill={token('ochre')} />
        </g>
      )}
    </g>
  )
}

function RunSign({ mark, laneNo, y, r, stage, onOpen }: MarkProps) {
  const { x, dy, run } = mark
  const { colour } = useAppearance()(laneNo)
  if (mark.kind === 'planned' || mark.kind === 'void') {
    return <circle cx={x} cy={y} r={2} fill={token('rule')} />
  }
  if (mark.kind === 'live') {
    return (
      <g data-testid="live-run">
        <circle cx={x} cy={y} r={r + 2.5} fill="none" stroke={colour} strokeWidth={2.5} />
        <text x={x + 13} y={y + 4} fontSize="13" className="strong">
          {stage ?? 'waiting'} …
        </text>
      </g>
    )
  }
  const open = () => onOpen(run.id)
  return (
    <g cursor="pointer" onClick={open} data-testid={`run-${mark.kind}`}>
      <title>{`block ${run.block}, ${run.state}${run.reason ? `: ${run.reason}` : ''}`}</title>
      <rect x={x - r - 2} y={y - 24} width={2 * r + 4} height={48} fill="transparent" />
      {mark.kind === 'failed' ? (
        <Cross x={x} y={y} r={r + 1} />
      ) : (
        <>
          <line x1={x} x2={x} y1={y} y2={y + dy} stroke={colour} strokeWidth={2} />
          <LaneMark laneNo={laneNo} x={x} y={y + dy} r={r} hollow={run.is_set_aside} />
          {mark.isBeyond && (
            <path
              d={`M${x - 3},${y + dy + (dy < 0 ? -r - 3 : r + 3)}h6l-3,${dy < 0 ? -4 : 4}z`}
              fill={colour}
            />
          )}
        </>
      )}
    </g>
  )
}
