import type { Findings, RunSheet, Study } from '@/api/types'
import { FailuresPicture } from '@/charts/FailuresPicture'
import { failuresSaid, failuresTable } from '@/charts/layout/failureLanes'
import { Stack } from '@/ui/kit'
import { procedureWord } from '@/format/procedureWord'

import { Panel } from '../Panel'
import { lanesOn } from '../studyPictures'

type Props = { study: Study; findings: Findings; sheet: RunSheet; names: ReadonlyMap<number, string> }

/** Failures and stalls of each procedure on each machine, run by run. */
export const FailuresPanel = ({ study, findings, sheet, names }: Props) => (
  <Stack>
    {findings.reliability.map((found) => {
      const own = lanesOn(study, found.machine, names)
      return (
        <Panel
          key={`${found.procedure} ${found.machine}`}
          study={study}
          title={`Reliability, ${procedureWord(found.procedure)}`}
          about={found.machine}
          headline={failuresSaid(found, own)}
          says={found.sentence}
          table={failuresTable(found, own)}
        >
          {(width) => <FailuresPicture found={found} sheet={sheet} names={own} width={width} />}
        </Panel>
      )
    })}
  </Stack>
)
