import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useOutletContext } from 'react-router'

import { disturbancesQuery } from '@/api/queries'
import { laneNames, type StudyContext } from '@/api/studyContext'
import { RunPicture } from '@/charts/RunPicture'
import { MIDDLE, Sheet, Stack, Working } from '@/ui/kit'
import { later } from '@/ui/later'
import { useNow } from '@/ui/useNow'
import { useWidth } from '@/ui/useWidth'

import { Disturbances } from './Disturbances'
import { FairStart } from './FairStart'
import { RunTable } from './RunTable'
import { stages } from './stages'

const Two = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0,1fr) minmax(280px,400px)',
  gap: 20,
  marginTop: 14,
  alignItems: 'start',
  [MIDDLE]: { gridTemplateColumns: 'minmax(0,1fr)' },
})

const RunEvidence = later(() => import('./RunEvidence').then((module) => module.RunEvidence))

/** The lanes as they fill, what comes next, and what failed. */
export function RunPage() {
  const { study, sheet, live } = useOutletContext<StudyContext>()
  const [ref, width] = useWidth<HTMLDivElement>(1222)
  const [open, setOpen] = useState<string | null>(null)
  const now = useNow(study.is_running)
  const names = laneNames(study)
  const noted = useQuery(disturbancesQuery(study.id))
  const disturbed = new Map(
    (noted.data ?? []).flatMap((one) => (one.run_id ? [[one.run_id, one.text] as const] : [])),
  )
  return (
    <>
      {study.is_running && <Working role="status" aria-label="The study is running" />}
      <Sheet ref={ref}>
        <RunPicture
          sheet={sheet}
          names={names}
          stages={stages(sheet, live, now)}
          disturbed={disturbed}
          width={width}
          onOpen={setOpen}
        />
      </Sheet>
      <Two>
        <RunTable study={study} sheet={sheet} names={names} onOpen={setOpen} />
        <Stack>
          <FairStart studyId={study.id} />
          <Disturbances studyId={study.id} sheet={sheet} names={names} />
        </Stack>
      </Two>
      {open && <RunEvidence runId={open} sheet={sheet} names={names} onClose={() => setOpen(null)} />}
    </>
  )
}
