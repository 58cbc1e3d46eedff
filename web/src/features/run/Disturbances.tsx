import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { disturbancesQuery, useNoteDisturbance } from '@/api/queries'
import type { RunSheet } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'
import { moment } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import { LineDialog } from '@/ui/LineDialog'
import { useShortcuts } from '@/ui/shortcuts'

type Props = { studyId: string; sheet: RunSheet; names: ReadonlyMap<number, string> }

/** What a person noted on the spot, with the run that was under way then. */
export function Disturbances({ studyId, sheet, names }: Props) {
  const noted = useQuery(disturbancesQuery(studyId))
  const note = useNoteDisturbance(studyId)
  const [isNoting, setNoting] = useState(false)
  useShortcuts([{ key: 'n', says: 'Note a disturbance', run: () => setNoting(true) }])
  return (
    <div className="sheet" style={{ padding: '12px 16px' }}>
      <div style={{ display: 'flex', justifyContent: 'space-between', alignItems: 'baseline', gap: 12 }}>
        <h2>Disturbances</h2>
        <Button size="small" color="inherit" onClick={() => setNoting(true)}>
          Note one
          <KeyHint name="N" />
        </Button>
      </div>
      {noted.error && <p className="soft">{noted.error.message}</p>}
      {noted.data?.length === 0 && <div className="soft">none was noted</div>}
      {noted.data?.map((one) => {
        const run = sheet.runs.find((item) => item.id === one.run_id)
        return (
          <div key={one.id} style={{ marginTop: 6 }}>
            {one.text}
            <div className="soft small">
              {moment(one.at)}
              {run && (
                <>
                  , during block {run.block} of <LaneSign laneNo={run.lane_no} />
                  {names.get(run.lane_no)}
                </>
              )}
            </div>
          </div>
        )
      })}
      {isNoting && (
        <LineDialog
          title="Note a disturbance" label="What happened" action="Note it" error={note.error} isPending={note.isPending}
          onClose={() => setNoting(false)} onSay={(text) => note.mutate(text, { onSuccess: () => setNoting(false) })}
        >
          It is kept with the time and the run that is under way. No reading is changed by it.
        </LineDialog>
      )}
    </div>
  )
}
