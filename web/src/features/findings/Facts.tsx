import { embeddedFonts } from '@/api/fonts'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useRef } from 'react'

import type { Findings, RunSheet, Study } from '@/api/types'
import { LaneSign } from '@/charts/marks/LaneMark'
import { csvOf } from '@/format/table'
import { Foot, PanelTop, Sheet, Soft } from '@/ui/kit'
import { TableCaption } from '@/ui/TableCaption'

import { factGroups, type FactGroup } from './factColumns'
import { factLines, type FactLine } from './factLines'
import { KeepButtons } from '@/ui/KeepButtons'

type Props = { study: Study; findings: Findings; sheet: RunSheet }

const FIRST = {
  position: 'sticky',
  left: 0,
  zIndex: 1,
  backgroundColor: 'background.paper',
  whiteSpace: 'nowrap',
} as const
const SECOND_HEAD = { top: 31 }

/** Contenders side by side; lines on which they differ are marked. */
export function Facts({ study, findings, sheet }: Props) {
  const lines = factLines(study, findings, sheet)
  const box = useRef<HTMLDivElement>(null)
  const says = `${lines.filter((line) => line.differs).length} of ${lines.length} differ; those stand first`
  const groups = factGroups(study.contenders)
  const head = ['fact', ...study.contenders.map((one) => one.label)]
  return (
    <Sheet as="section" aria-label="Facts" ref={box}>
      <PanelTop>
        <h2>Facts</h2>
        <Soft>{says}</Soft>
      </PanelTop>
      <TableContainer
        tabIndex={0}
        role="group"
        aria-label="Facts of the contenders"
        sx={{ maxHeight: '72vh' }}
      >
        <Table stickyHeader>
          <TableCaption>Facts of the contenders side by side</TableCaption>
          <Head groups={groups} />
          <TableBody>
            {lines.map((line) => (
              <Line key={line.label} line={line} study={study} groups={groups} />
            ))}
          </TableBody>
        </Table>
      </TableContainer>
      <Foot className="noprint">
        <KeepButtons
          fonts={embeddedFonts}
          box={box}
          hasPicture={false}
          name={[study.title, 'facts']}
          data={() => csvOf({ head, rows: lines.map((line) => [line.label, ...line.values]) })}
          head={['Facts', says]}
        />
      </Foot>
    </Sheet>
  )
}

function Head({ groups }: { groups: readonly FactGroup[] }) {
  const isGrouped = groups.some((group) => group.contenders.length > 1)
  return (
    <TableHead>
      <TableRow>
        <TableCell sx={{ ...FIRST, zIndex: 3 }} />
        {groups.map((group) => (
          <TableCell key={group.name} colSpan={group.contenders.length} scope="colgroup">
            <LaneSign laneNo={group.contenders[0]!.lane_no} />
            {group.name}
          </TableCell>
        ))}
      </TableRow>
      {isGrouped && (
        <TableRow>
          <TableCell sx={{ ...FIRST, ...SECOND_HEAD, zIndex: 3 }} />
          {groups.flatMap((group) =>
            group.contenders.map((one) => (
              <TableCell key={one.id} sx={SECOND_HEAD}>
                {one.install.machine.name}
              </TableCell>
            )),
          )}
        </TableRow>
      )}
    </TableHead>
  )
}

function Line({ line, study, groups }: { line: FactLine; study: Study; groups: readonly FactGroup[] }) {
  const valueOf = new Map(study.contenders.map((one, i) => [one.id, line.values[i] ?? null]))
  const mark = line.differs ? { backgroundColor: 'var(--hm-chosen)' } : {}
  return (
    <TableRow sx={mark}>
      <TableCell component="th" scope="row" sx={{ ...FIRST, ...mark }}>
        {line.label}
      </TableCell>
      {groups.flatMap((group) =>
        group.contenders.map((one) => {
          const value = valueOf.get(one.id) ?? null
          return (
            <TableCell key={one.id} sx={value === null ? { color: 'text.secondary' } : {}}>
              {value ?? 'not stated'}
            </TableCell>
          )
        }),
      )}
    </TableRow>
  )
}
