import Button from '@mui/material/Button'

import type { Run, RunSheet, Study } from '@/api/types'
import { usePlanAgain, usePlanFailedAgain } from '@/api/queries'
import { LaneSign } from '@/charts/marks/LaneMark'
import { duration } from '@/format/numbers'
import { TERMS } from '@/format/terms'

import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'
import { Term } from '@/ui/Term'

import { SkipButton } from './SkipButton'
import { conditionOf, howItIsRun } from './sheetWords'
import { typicalSeconds } from './stages'

type Props = { study: Study; sheet: RunSheet; names: ReadonlyMap<number, string>; onOpen: (runId: string) => void }

const MOST_NEXT = 6

/** The run sheet from here on, and the runs that failed with their reasons. */
export function RunTable({ study, sheet, names, onOpen }: Props) {
  const next = sheet.runs.filter((run) => ['leased', 'running', 'planned'].includes(run.state))
  const failed = sheet.runs.filter((run) => run.state === 'failed')
  return (
    <div className="sheet scroll">
      {next.length > 0 && <NextRuns study={study} sheet={sheet} runs={next} names={names} />}
      {next.length === 0 && failed.length === 0 && (
        <p className="soft" style={{ padding: '10px 16px', margin: 0 }}>
          Every run is done, and none failed. The answer stands on the Findings page.
        </p>
      )}
      {failed.length > 0 && <FailedRuns studyId={study.id} runs={failed} names={names} onOpen={onOpen} />}
    </div>
  )
}

type NextProps = { study: Study; sheet: RunSheet; runs: Run[]; names: ReadonlyMap<number, string> }

function NextRuns({ study, sheet, runs, names }: NextProps) {
  const typical = typicalSeconds(sheet)
  const left = typical === null ? '' : `, about ${duration(typical * runs.length)} to go`
  const ways = new Map(study.contenders.map((one) => [one.lane_no, howItIsRun(one.install)]))
  return (
    <table className="rows">
      <caption className="hidden">Runs to come</caption>
      <thead>
        <tr>
          <th>next</th>
          <th>contender</th>
          <th>procedure</th>
          <th className="wide">condition</th>
          <th className="wide"><Term says={TERMS.rig.says}>how it is run</Term></th>
          <th className="r"><Term says={TERMS.block.says}>block</Term></th>
          {typical !== null && <th className="r">about</th>}
          <th />
        </tr>
      </thead>
      <tbody>
        {runs.slice(0, MOST_NEXT).map((run, i) => (
          <tr key={run.id} className={run.state === 'planned' ? '' : 'now'}>
            <td>{run.state === 'planned' ? i + 1 : 'now'}</td>
            <td>
              <LaneSign laneNo={run.lane_no} />
              {names.get(run.lane_no)}
            </td>
            <td>{run.procedure}{run.attempt > 1 ? `, try ${run.attempt}` : ''}</td>
            <td className="wide">{conditionOf(run, sheet)}</td>
            <td className="wide">{ways.get(run.lane_no)}</td>
            <td className="r">{run.block}</td>
            {typical !== null && <td className="r">{duration(typicalSeconds(sheet, run) ?? typical)}</td>}
            <td className="r">
              {run.state === 'planned' && <SkipButton runId={run.id} what={`block ${run.block} of ${names.get(run.lane_no)}`} />}
            </td>
          </tr>
        ))}
        <tr>
          <td colSpan={8} className="soft">
            {runs.length} to come{left}
          </td>
        </tr>
      </tbody>
    </table>
  )
}

type FailedProps = { studyId: string; runs: Run[]; names: ReadonlyMap<number, string>; onOpen: (runId: string) => void }

function FailedRuns({ studyId, runs, names, onOpen }: FailedProps) {
  const again = usePlanAgain()
  const all = usePlanFailedAgain(studyId)
  useShortcuts([{ key: 'a', says: 'Plan all failed runs again', run: () => all.mutate() }])
  return (
    <table className="rows">
      <caption className="hidden">Runs that failed</caption>
      <thead>
        <tr>
          <th>failed</th>
          <th className="r">block</th>
          <th>reason</th>
          <th className="r">
            {runs.length > 1 && (
              <Button size="small" color="inherit" disabled={all.isPending} onClick={() => all.mutate()}>
                Plan all {runs.length} again
                <KeyHint name="A" />
              </Button>
            )}
          </th>
        </tr>
      </thead>
      <tbody>
        {runs.map((run) => (
          <tr key={run.id}>
            <td>
              <LaneSign laneNo={run.lane_no} />
              {names.get(run.lane_no)}
            </td>
            <td className="r">{run.block}</td>
            <td>
              <button className="link" onClick={() => onOpen(run.id)}>
                {run.reason ?? 'no reason was given'}
              </button>
            </td>
            <td className="r">
              <Button size="small" color="inherit" disabled={again.isPending} onClick={() => again.mutate(run.id)}>
                Plan again
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
