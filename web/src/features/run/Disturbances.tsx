import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { disturbancesQuery, useNoteDisturbance } from '@/api/queries'
import type { RunSheet } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'
import { moment } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import { Sheet, Soft, SoftSmall, TitleBar } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'
import { useShortcuts } from '@/ui/shortcuts'

const Noted = styled('div')({ marginTop: 6 })

type Props = { studyId: string; sheet: RunSheet; names: ReadonlyMap<number, string> }

/** What a person noted on the spot, with the run that was under way then. */
export function Disturbances({ studyId, sheet, names }: Props) {
  const noted = useQuery(disturbancesQuery(studyId))
  const note = useNoteDisturbance(studyId)
  const [isNoting, setNoting] = useState(false)
  useShortcuts([{ key: 'n', says: 'Note a disturbance', run: () => setNoting(true) }])
  return (
    <Sheet sx={{ padding: '12px 16px' }}>
      <TitleBar sx={{ alignItems: 'baseline' }}>
        <h2>Disturbances</h2>
        <Button size="small" color="inherit" onClick={() => setNoting(true)}>
          Note one
          <KeyHint name="N" />
        </Button>
      </TitleBar>
      {noted.error && <Soft as="p">{noted.error.message}</Soft>}
      {noted.data?.length === 0 && <Soft as="div">none was noted</Soft>}
      {noted.data?.map((one) => {
        const run = sheet.runs.find((item) => item.id === one.run_id)
        return (
          <Noted key={one.id}>
            {one.text}
            <SoftSmall as="div">
              {moment(one.at)}
              {run && (
                <>
                  , during block {run.block} of <LaneSign laneNo={run.lane_no} />
                  {names.get(run.lane_no)}
                </>
              )}
            </SoftSmall>
          </Noted>
        )
      })}
      {isNoting && (
        <LineDialog
          title="Note a disturbance"
          label="What happened"
          action="Note it"
          error={note.error}
          isPending={note.isPending}
          onClose={() => setNoting(false)}
          onSay={(text) => note.mutate(text, { onSuccess: () => setNoting(false) })}
        >
          It is kept with the time and the run that is under way. No reading is changed by it.
        </LineDialog>
      )}
    </Sheet>
  )
}
