import { Link } from 'react-router'

import type { LivePhase } from '@/api/events'
import type { MachineDay, PlacedRun } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'
import { clock, count, duration } from '@/format/numbers'

import { stageOf } from './stage'

type Props = { machine: MachineDay; live: ReadonlyMap<string, LivePhase>; nowMs: number }

/** One machine's lane: what is under way, what comes next, and when it is free. */
export function MachineLane({ machine, live, nowMs }: Props) {
  const share = (100 * machine.done) / Math.max(1, machine.done + machine.left)
  return (
    <li className="machine">
      <div>
        <b className="name">{machine.name}</b>
        <div className="soft small">
          {machine.kind === 'simulated' ? 'simulated, ' : ''}
          {machine.done} of {count(machine.done + machine.left, 'run')} done
        </div>
        <span className="bar" style={{ display: 'block' }}>
          <i style={{ width: `${share}%` }} />
        </span>
      </div>
      <div className="doing">
        {machine.now ? (
          <>
            <span className="lamp" aria-hidden="true" />
            <RunName placed={machine.now} />
            <div className="soft small">{stageOf(machine.now.run, live.get(machine.now.run.id), nowMs)}</div>
          </>
        ) : (
          <span className="soft">{machine.is_moving ? 'between two runs' : 'still'}</span>
        )}
      </div>
      <ol className="soft small comes" aria-label={`Next on ${machine.name}`}>
        {machine.next.map((placed) => (
          <li key={placed.run.id}>
            <RunName placed={placed} isSmall />
          </li>
        ))}
        {machine.left > machine.next.length + (machine.now ? 1 : 0) && (
          <li className="more">and {machine.left - machine.next.length - (machine.now ? 1 : 0)} more</li>
        )}
      </ol>
      <div className="ready">
        {machine.left_s === null ? (
          <span className="soft small">how long is not known yet</span>
        ) : machine.is_moving ? (
          <>
            <b>{clock(nowMs + machine.left_s * 1000)}</b>
            <div className="soft small">free, in about {duration(machine.left_s)}</div>
          </>
        ) : (
          <>
            <b>{duration(machine.left_s)}</b>
            <div className="soft small">to go, once started</div>
          </>
        )}
      </div>
    </li>
  )
}

function RunName({ placed, isSmall = false }: { placed: PlacedRun; isSmall?: boolean }) {
  const { run } = placed
  return (
    <>
      <LaneSign laneNo={run.lane_no} />
      {isSmall ? placed.contender : <Link to={`/studies/${placed.study_id}/run`} title={placed.question}>{placed.contender}</Link>}
      , {run.procedure}, block {run.block}
    </>
  )
}
