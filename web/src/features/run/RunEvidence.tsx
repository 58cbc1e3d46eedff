import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { photographsQuery, useAddPhotograph, useWithdrawPhotograph } from '@/api/beside'
import { captureFacts } from '@/api/captureFacts'
import { captureQuery } from '@/api/queries'
import type { RunSheet } from '@/api/types'
import { amount } from '@/format/numbers'
import { Soft } from '@/ui/kit'
import { Photographs } from '@/ui/Photographs'
import { TextsDrawer } from '@/ui/TextsDrawer'
import { UndoBar } from '@/ui/UndoBar'

type Props = { runId: string; sheet: RunSheet; names: ReadonlyMap<number, string>; onClose: () => void }

const MOST = 12

/** Photographs that a person put beside the run. */
function RunPhotographs({ runId, name }: { runId: string; name: string }) {
  const kept = useQuery(photographsQuery(runId))
  const add = useAddPhotograph(runId)
  const change = useWithdrawPhotograph()
  const [gone, setGone] = useState<string | null>(null)
  const withdraw = (id: string, isWithdrawn: boolean) => {
    change.mutate({ id, isWithdrawn }, { onSettled: () => void kept.refetch() })
    setGone(isWithdrawn ? id : null)
  }
  const error = kept.error ?? add.error ?? change.error
  return (
    <section aria-label="Photographs">
      <Photographs
        shown={kept.data ?? []}
        of={name}
        most={MOST}
        onAdd={(drawn) => drawn.forEach((one) => add.mutate(one, { onSettled: () => void kept.refetch() }))}
        onRemove={(id) => withdraw(id, true)}
      />
      {error && <Soft as="p">{error.message}</Soft>}
      {gone && (
        <UndoBar
          says="The photograph was taken out."
          onUndo={() => withdraw(gone, false)}
          onDone={() => setGone(null)}
        />
      )}
    </section>
  )
}

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
      <RunPhotographs runId={runId} name={names.get(run.lane_no) ?? 'the run'} />
      {capture.isPending && <Soft as="p">Fetching the evidence …</Soft>}
      {capture.error && <Soft as="p">{capture.error.message}</Soft>}
    </TextsDrawer>
  )
}
