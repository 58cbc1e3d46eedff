import type { Findings, Study } from '@/api/types'
import { DefinitionsPicture } from '@/charts/DefinitionsPicture'
import { definitionsSaid, definitionsTable } from '@/charts/layout/definitions'
import { Stack } from '@/ui/kit'

import { Panel } from '../Panel'
import { lanesOn, machinesWithDefinitions } from '../studyPictures'

type Props = { study: Study; findings: Findings; names: ReadonlyMap<number, string> }

/** One instant under every definition of memory in use, machine by machine. */
export function MemoryPanel({ study, findings, names }: Props) {
  return (
    <Stack>
      {machinesWithDefinitions(findings.rows).map((machine) => {
        const own = lanesOn(study, machine, names)
        return (
          <Panel
            key={machine}
            study={study}
            title="Memory definitions"
            about={machine}
            headline={definitionsSaid(findings.rows, machine, own)}
            table={definitionsTable(findings.rows, machine, own)}
            says="The same instant gives another figure under each definition: only like may be set against like."
          >
            {(width) => (
              <DefinitionsPicture rows={findings.rows} machine={machine} names={own} width={width} />
            )}
          </Panel>
        )
      })}
    </Stack>
  )
}
