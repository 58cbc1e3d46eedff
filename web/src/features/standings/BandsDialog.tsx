import { useState } from 'react'

import { useSetBands, type StandingsPage } from '@/api/standings'
import { amount } from '@/format/numbers'
import { LineDialog } from '@/ui/LineDialog'

import { typedBands } from './asked'

/** Bands of the measure as one line: names and limits by turns; an empty line takes them out. */
export function BandsDialog({ page, onClose }: { page: StandingsPage; onClose: () => void }) {
  const set = useSetBands()
  const [fault, setFault] = useState<Error | null>(null)
  const scale = page.scale
  const now = page.bands?.names.flatMap((name, i) => {
    const limit = page.bands!.limits[i]
    return limit === undefined || !scale ? [name] : [name, amount(limit, scale)]
  })
  const say = (text: string) => {
    const bands = text ? typedBands(text) : null
    if (text && !bands)
      return setFault(
        new Error('Write names and limits by turns, such as: light, 400 MiB, middle, 600 MiB, heavy'),
      )
    setFault(null)
    set.mutate({ metric: page.question!.metric, bands }, { onSuccess: onClose })
  }
  return (
    <LineDialog
      title={`Bands of ${page.question!.label.toLowerCase()}`}
      label="Names and limits by turns"
      action="Set bands"
      initial={now?.join(', ') ?? ''}
      mayBeEmpty
      error={fault ?? set.error}
      isPending={set.isPending}
      onClose={onClose}
      onSay={say}
    >
      From the smallest figures to the largest, such as: light, 400 MiB, middle, 600 MiB, heavy. Empty takes
      them out.
    </LineDialog>
  )
}
