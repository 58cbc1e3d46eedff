import { useQuery } from '@tanstack/react-query'

import { captureFacts } from '@/api/captureFacts'
import { captureQuery } from '@/api/queries'
import type { RunSheet } from '@/api/types'
import { amount } from '@/format/numbers'
import { Soft } from '@/ui/kit'
import { TextsDrawer } from '@/ui/TextsDrawer'

type Props = { runId: string; sheet: RunSheet; names: ReadonlyMap<number, string>; onClose: () => void }

/** Everything that a run brought in. */
export function RunEvidence({ runId, sheet, names, onClose }: Props) {
  const capture = useQuery(captureQuery(runId))
  const run = sheet.runs.find((item) => item.id === runId)
  if (!run) return null
  const value = run.value !== null && sheet.scale ? amount(run.value, sheet.scale) : run.state
  const facts: [string, string][] = [
    ['run', `block ${run.block}, place ${run.position}, try ${run.attempt}`],
    [sheet.label ?? 'state', value],
    ...(run.reason ? ([['reason', run.reason]] as [string, string][]) : []),
    ...captureFacts(capture.data),
  ]
  return (
    <TextsDrawer
      title={names.get(run.lane_no) ?? 'Run'}
      facts={facts}
      texts={capture.data?.evidence ?? []}
      onClose={onClose}
    >
      {capture.isPending && <Soft as="p">Fetching the evidence …</Soft>}
      {capture.error && <Soft as="p">{capture.error.message}</Soft>}
    </TextsDrawer>
  )
}
