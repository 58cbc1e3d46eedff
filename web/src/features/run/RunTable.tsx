import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'

import { extent, group } from 'd3-array'

import { usePlanAgain, usePlanFailedAgain } from '@/api/queries'
import type { Run, RunSheet, Study } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'
import { count, duration } from '@/format/numbers'
import { TERMS } from '@/format/terms'
import { KeyHint } from '@/ui/KeyHint'
import { LinkButton, Sheet, Soft, WIDE } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { TableCaption } from '@/ui/TableCaption'
import { Term } from '@/ui/Term'

import { conditionOf, howItIsRun } from './sheetWords'
import { ASIDE } from './sheetWords'
import { SetRunAside } from './SetRunAside'
import { SkipButton } from './SkipButton'
import { typicalSeconds } from './stages'

type Props = {
  study: Study
  sheet: RunSheet
  names: ReadonlyMap<number, string>
  onOpen: (runId: string) => void
}

const MOST_NEXT = 6

/** The run sheet from here on, and the runs that failed with their reasons. */
export function RunTable({ study, sheet, names, onOpen }: Props) {
  const next = sheet.runs.filter((run) => ['leased', 'running', 'planned'].includes(run.state))
  const failed = sheet.runs.filter((run) => run.state === 'failed' || run.state === 'void')
  return (
    <Sheet as={TableContainer}>
      {next.length > 0 && <NextRuns study={study} sheet={sheet} runs={next} names={names} />}
      {skippedSaid(sheet.runs).map((said) => (
        <Soft key={said} as="p" sx={{ padding: '10px 16px 0', m: 0 }}>
          {said}
        </Soft>
      ))}
      {next.length === 0 && failed.length === 0 && (
        <Soft as="p" sx={{ padding: '10px 16px', m: 0 }}>
          {sheet.runs.some((run) => run.state === 'skipped') ? 'Every other' : 'Every'} run is done, and none
          failed. The answer stands on the Findings page.
        </Soft>
      )}
      {failed.length > 0 && <FailedRuns studyId={study.id} runs={failed} names={names} onOpen={onOpen} />}
    </Sheet>
  )
}

/** The runs that were left out, by why: how many, and of which blocks. */
export function skippedSaid(runs: readonly Run[]): string[] {
  const byReason = group(
    runs.filter((run) => run.state === 'skipped'),
    (run) => run.reason ?? '',
  )
  return [...byReason].map(([reason, left]) => {
    const [low, high] = extent(left, (run) => run.block)
    const blocks = low === high ? `block ${low}` : `blocks ${low} to ${high}`
    return `${count(left.length, 'run')} of ${blocks} skipped${reason ? `: ${reason}` : ''}.`
  })
}

type NextProps = { study: Study; sheet: RunSheet; runs: Run[]; names: ReadonlyMap<number, string> }

function NextRuns({ study, sheet, runs, names }: NextProps) {
  const typical = typicalSeconds(sheet)
  const left = typical === null ? '' : `, about ${duration(typical * runs.length)} to go`
  const ways = new Map(study.contenders.map((one) => [one.lane_no, howItIsRun(one.install)]))
  return (
    <Table>
      <TableCaption>Runs to come</TableCaption>
      <TableHead>
        <TableRow>
          <TableCell>next</TableCell>
          <TableCell>contender</TableCell>
          <TableCell>procedure</TableCell>
          <TableCell sx={WIDE}>condition</TableCell>
          <TableCell sx={WIDE}>
            <Term says={TERMS.rig.says}>how it is run</Term>
          </TableCell>
          <TableCell align="right">
            <Term says={TERMS.block.says}>block</Term>
          </TableCell>
          {typical !== null && <TableCell align="right">about</TableCell>}
          <TableCell />
        </TableRow>
      </TableHead>
      <TableBody>
        {runs.slice(0, MOST_NEXT).map((run, i) => (
          <TableRow key={run.id} selected={run.state !== 'planned'}>
            <TableCell>{run.state === 'planned' ? i + 1 : 'now'}</TableCell>
            <TableCell>
              <LaneSign laneNo={run.lane_no} />
              {names.get(run.lane_no)}
            </TableCell>
            <TableCell>
              {run.procedure}
              {run.attempt > 1 ? `, try ${run.attempt}` : ''}
            </TableCell>
            <TableCell sx={WIDE}>{conditionOf(run, sheet)}</TableCell>
            <TableCell sx={WIDE}>{ways.get(run.lane_no)}</TableCell>
            <TableCell align="right">{run.block}</TableCell>
            {typical !== null && (
              <TableCell align="right">{duration(typicalSeconds(sheet, run) ?? typical)}</TableCell>
            )}
            <TableCell align="right">
              {run.state === 'planned' && (
                <SkipButton runId={run.id} what={`block ${run.block} of ${names.get(run.lane_no)}`} />
              )}
            </TableCell>
          </TableRow>
        ))}
        <TableRow>
          <TableCell colSpan={8} sx={{ color: 'text.secondary' }}>
            {runs.length} to come{left}
          </TableCell>
        </TableRow>
      </TableBody>
    </Table>
  )
}

type FailedProps = {
  studyId: string
  runs: Run[]
  names: ReadonlyMap<number, string>
  onOpen: (runId: string) => void
}

function FailedRuns({ studyId, runs, names, onOpen }: FailedProps) {
  const again = usePlanAgain()
  const all = usePlanFailedAgain(studyId)
  const toTryAgain = runs.filter((run) => !run.reason?.startsWith(ASIDE)).length
  useShortcuts([
    { key: 'a', says: 'Plan again all that failed or could not be measured', run: () => all.mutate() },
  ])
  return (
    <Table>
      <TableCaption>Runs that failed, or could not be measured</TableCaption>
      <TableHead>
        <TableRow>
          <TableCell>without a result</TableCell>
          <TableCell align="right">block</TableCell>
          <TableCell>reason</TableCell>
          <TableCell align="right">
            {toTryAgain > 1 && (
              <Button size="small" color="inherit" disabled={all.isPending} onClick={() => all.mutate()}>
                Plan all {toTryAgain} again
                <KeyHint name="A" />
              </Button>
            )}
          </TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {runs.map((run) => (
          <TableRow key={run.id}>
            <TableCell>
              <LaneSign laneNo={run.lane_no} />
              {names.get(run.lane_no)}
            </TableCell>
            <TableCell align="right">{run.block}</TableCell>
            <TableCell>
              {run.state === 'void' && !run.reason?.startsWith(ASIDE) && 'could not measure: '}
              <LinkButton onClick={() => onOpen(run.id)}>
                {run.reason?.replace('could not measure: ', '') ?? 'no reason was given'}
              </LinkButton>
            </TableCell>
            <TableCell align="right" sx={{ whiteSpace: 'nowrap' }}>
              <SetRunAside
                runId={run.id}
                state={run.state}
                reason={run.reason}
                what={`block ${run.block} of ${names.get(run.lane_no)}`}
              />
              <Button
                size="small"
                color="inherit"
                disabled={again.isPending}
                onClick={() => again.mutate(run.id)}
              >
                Plan again
              </Button>
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  )
}
