import { styled } from '@mui/material/styles'
import { Link } from 'react-router'

import type { LivePhase } from '@/api/events'
import type { MachineDay, PlacedRun } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'
import { clock, count, duration } from '@/format/numbers'
import { HEADING } from '@/theme/theme'
import { Soft, SoftSmall } from '@/ui/kit'
import { Share } from '@/ui/Share'

import { stageOf } from './stage'

const Machine = styled('li')({
  display: 'grid',
  gridTemplateColumns: 'minmax(190px,1.1fr) minmax(0,1.2fr) minmax(0,1.5fr) 150px',
  gap: '6px 22px',
  padding: '14px 16px',
  borderBottom: '1px solid var(--hm-rule)',
  alignItems: 'start',
  '&:last-child': { borderBottom: 0 },
  '& .name': { font: `650 17px/1.25 ${HEADING}` },
  '& .doing a': { fontWeight: 650 },
  '& .comes': { margin: 0, padding: '0 0 0 18px' },
  '& .comes .more': { listStyle: 'none' },
  '& .lamp': {
    display: 'inline-block',
    width: 9,
    height: 9,
    borderRadius: '50%',
    border: '2.5px solid var(--hm-rust)',
    marginRight: 7,
    verticalAlign: '-1px',
  },
  '& .ready': { textAlign: 'right' },
  '& .ready b': { font: `650 20px/1.2 ${HEADING}`, fontVariantNumeric: 'tabular-nums' },
  '@media screen and (max-width:600px)': {
    gridTemplateColumns: 'minmax(0,1fr)',
    '& .ready': { textAlign: 'left' },
  },
})

type Props = { machine: MachineDay; live: ReadonlyMap<string, LivePhase>; nowMs: number }

/** One machine's lane: what is under way, what comes next, and when it is free. */
export function MachineLane({ machine, live, nowMs }: Props) {
  const share = machine.done / Math.max(1, machine.done + machine.left)
  return (
    <Machine>
      <div>
        <b className="name">{machine.name}</b>
        <SoftSmall as="div">
          {machine.kind === 'simulated' ? 'simulated, ' : ''}
          {machine.done} of {count(machine.done + machine.left, 'run')} done
        </SoftSmall>
        <Share of={share} says="Runs that are done" />
      </div>
      <div className="doing">
        {machine.now ? (
          <>
            <span className="lamp" aria-hidden="true" />
            <RunName placed={machine.now} />
            <SoftSmall as="div">{stageOf(machine.now.run, live.get(machine.now.run.id), nowMs)}</SoftSmall>
          </>
        ) : (
          <Soft>{machine.is_moving ? 'between two runs' : 'still'}</Soft>
        )}
      </div>
      <SoftSmall as="ol" className="comes" aria-label={`Next on ${machine.name}`}>
        {machine.next.map((placed) => (
          <li key={placed.run.id}>
            <RunName placed={placed} isSmall />
          </li>
        ))}
        {machine.left > machine.next.length + (machine.now ? 1 : 0) && (
          <li className="more">and {machine.left - machine.next.length - (machine.now ? 1 : 0)} more</li>
        )}
      </SoftSmall>
      <div className="ready">
        {machine.left_s === null ? (
          <SoftSmall>how long is not known yet</SoftSmall>
        ) : machine.is_moving ? (
          <>
            <b>{clock(nowMs + machine.left_s * 1000)}</b>
            <SoftSmall as="div">free, in about {duration(machine.left_s)}</SoftSmall>
          </>
        ) : (
          <>
            <b>{duration(machine.left_s)}</b>
            <SoftSmall as="div">to go, once started</SoftSmall>
          </>
        )}
      </div>
    </Machine>
  )
}

function RunName({ placed, isSmall = false }: { placed: PlacedRun; isSmall?: boolean }) {
  const { run } = placed
  return (
    <>
      <LaneSign laneNo={run.lane_no} />
      {isSmall ? (
        placed.contender
      ) : (
        <Link to={`/studies/${placed.study_id}/run`} title={placed.question}>
          {placed.contender}
        </Link>
      )}
      , {run.procedure}, block {run.block}
    </>
  )
}
