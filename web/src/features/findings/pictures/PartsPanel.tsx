import { useQuery } from '@tanstack/react-query'

import { bootPartsQuery, bootUnitsQuery } from '@/api/queries'
import type { BootParts, Study } from '@/api/types'
import { BootPartsPicture } from '@/charts/BootPartsPicture'
import { BootUnitsPicture } from '@/charts/BootUnitsPicture'
import { bootPartsTable } from '@/charts/layout/bootParts'
import { unitsSaid, unitsTable } from '@/charts/layout/unitLanes'
import { Stack } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'

import { Chooser } from '@/ui/Chooser'
import { Panel } from '../Panel'
import { useView } from '@/ui/useView'

type Names = ReadonlyMap<number, string>
type Boot = { runId: string; block: number; laneNo: number; machine: string }

const bootsOf = (found: readonly BootParts[]): Boot[] =>
  found.flatMap((one) =>
    one.lanes.flatMap((lane) =>
      lane.opened.map(({ run_id: runId, block }) => ({
        runId,
        block,
        laneNo: lane.lane_no,
        machine: one.machine,
      })),
    ),
  )

/** Boots in their parts on each machine, or a single one opened. */
export function PartsPanel({ study, names }: { study: Study; names: Names }) {
  const parts = useQuery(bootPartsQuery(study.id))
  const view = useView()
  const boots = bootsOf(parts.data ?? [])
  const opened = boots.find((boot) => boot.runId === view.get('boot'))
  const open = (boot: Boot | undefined) => view.put({ boot: boot?.runId ?? '' })
  useShortcuts(
    boots.length
      ? [
          {
            key: 'n',
            says: 'Open the next boot',
            run: () => open(boots[(opened ? boots.indexOf(opened) + 1 : 0) % boots.length]),
          },
          ...(opened ? [{ key: 'Escape', says: 'Back to all boots', run: () => open(undefined) }] : []),
        ]
      : [],
  )
  if (parts.error) return <Failed error={parts.error} onRetry={() => void parts.refetch()} />
  if (!parts.data) return <Loading what="the parts of the boot" />
  if (!parts.data.length) {
    return (
      <Empty title="No parts in common">
        <p>
          No part of the boot was read by one and the same method in every boot. Measure all contenders in the
          same way, and they appear here.
        </p>
      </Empty>
    )
  }
  const chooser = boots.length > 0 && (
    <span className="spread">
      <Chooser
        label="open"
        keyName="N"
        chosen={opened?.runId ?? ''}
        onChoose={(runId) => open(boots.find((boot) => boot.runId === runId))}
        options={[
          { id: '', label: 'all boots' },
          ...boots.map((boot) => ({
            id: boot.runId,
            label: `${names.get(boot.laneNo)}, ${boot.machine}, block ${boot.block}`,
          })),
        ]}
      />
    </span>
  )
  if (opened) return <OneBoot study={study} names={names} boot={opened} chooser={chooser} />
  return (
    <Stack>
      {parts.data.map((found, i) => (
        <Panel
          key={found.machine}
          study={study}
          title="Parts of the boot"
          about={`seconds, ${found.machine}; thin bars: interval of each boundary`}
          headline={found.headline}
          says={found.sentence}
          table={bootPartsTable(found, names)}
          controls={i === 0 && chooser}
        >
          {(width) => <BootPartsPicture found={found} names={names} width={width} />}
        </Panel>
      ))}
    </Stack>
  )
}

type OneProps = { study: Study; names: Names; boot: Boot; chooser: React.ReactNode }

function OneBoot({ study, names, boot, chooser }: OneProps) {
  const units = useQuery(bootUnitsQuery(study.id, boot.runId))
  if (units.error) return <Failed error={units.error} />
  if (!units.data) return <Loading what="the units of this boot" />
  const found = units.data.units
  return (
    <Panel
      study={study}
      title="One boot"
      about={`${names.get(boot.laneNo)}, ${boot.machine}, block ${boot.block}; ${found.length} units`}
      {...unitsSaid(found)}
      table={unitsTable(found)}
      controls={chooser}
    >
      {(width) => <BootUnitsPicture units={found} laneNo={boot.laneNo} width={width} />}
    </Panel>
  )
}
