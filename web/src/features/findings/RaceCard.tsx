import Skeleton from '@mui/material/Skeleton'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useRef } from 'react'

import { embeddedFonts } from '@/api/fonts'
import { bootPartsQuery, columnsQuery, disturbancesQuery, overMachinesQuery } from '@/api/queries'
import type { FindingRow, Findings, MachinesRow, Study } from '@/api/types'
import { BootPartsPicture } from '@/charts/BootPartsPicture'
import { ofRow } from '@/charts/layout/rowReadings'
import { OverMachinesPicture } from '@/charts/OverMachinesPicture'
import { RowPicture } from '@/charts/RowPicture'
import { amount, moment } from '@/format/numbers'
import { GRADES } from '@/format/terms'
import { fileName, handOut, standalonePage } from '@/ui/keep'
import { KeyHint } from '@/ui/KeyHint'
import { Foot, Headline, Plain, Sheet, Soft } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { useFit } from '@/ui/useFit'
import { useWidth } from '@/ui/useWidth'

import { machineLines, mainRows } from './cardRows'
import { CardVerdicts } from './CardVerdicts'
import { measureSaid } from './rowWords'

type Names = ReadonlyMap<number, string>
type Props = { study: Study; findings: Findings; names: Names }

const Card = styled('article')({
  padding: '20px 28px',
  maxWidth: 960,
  '& h2': { margin: '20px 0 6px' },
  '& section': { breakInside: 'avoid' },
  '& .headline': { padding: '0 0 4px', fontSize: 24 },
  '@media print': { zoom: 'var(--fit,.6)', width: 960, padding: '0 28px', '& h2': { margin: '12px 0 2px' } },
})

const MAIN_OVER = ['boot.total', 'memory.used']

/** The study on one page that stands on its own, on paper or as one file. */
export function RaceCard({ study, findings, names }: Props) {
  const card = useRef<HTMLElement>(null)
  const [inner, width] = useWidth<HTMLDivElement>(880)
  useFit(card)
  const noted = useQuery(disturbancesQuery(study.id))
  const parts = useQuery(bootPartsQuery(study.id))
  const keep = () =>
    void embeddedFonts().then((fonts) =>
      handOut(
        `${fileName(study.title)}.html`,
        new Blob([standalonePage(card.current!, study.title, fonts)], { type: 'text/html' }),
      ),
    )
  useShortcuts([{ key: 's', says: 'Save the race card (one HTML file)', run: keep }])
  const machines = machineLines(study)
  const rows = findings.rows.filter((row) =>
    row.lanes.some((lane) => lane.set_aside > 0 || lane.corrected > 0),
  )
  const over = findings.machines.filter((one) => MAIN_OVER.includes(one.metric))
  const notes = [
    ...new Map(
      findings.rows.flatMap((row) => row.fair_start.map((one) => [one.sentence, one] as const)),
    ).values(),
  ]
  return (
    <Sheet>
      <Foot className="noprint" sx={{ borderTop: 0 }}>
        <Plain onClick={keep}>
          Save as one file
          <KeyHint name="S" />
        </Plain>
        <Plain onClick={() => window.print()}>Print</Plain>
      </Foot>
      <Card className="card" ref={card}>
        <h1>{study.title}</h1>
        <Soft as="p">
          {machines.join('; ')}. {study.contenders.length} contenders, {study.blocks} blocks{' '}
          {study.order === 'visits'
            ? 'in visits, one contender after the other with a return to the first'
            : study.seed
              ? `in an order shuffled by seed ${study.seed}`
              : 'in the order in which they were brought in'}
          ; begun {moment(study.created_at)}
        </Soft>
        <CardVerdicts findings={findings} isManyMachines={machines.length > 1} />
        <div ref={inner} />
        {over.map((row) => (
          <CardOver key={row.key} study={study} row={row} width={width} />
        ))}
        {over.length === 0 &&
          mainRows(findings.rows).map((row) => (
            <CardPicture key={row.key} study={study} row={row} names={names} width={width} />
          ))}
        {over.length === 0 &&
          parts.data?.map((found) => (
            <section key={found.machine}>
              <h2>Parts of the boot, {found.machine}</h2>
              <Headline className="headline">{found.headline}</Headline>
              <BootPartsPicture found={found} names={names} width={width} isLow />
            </section>
          ))}
        <h2>Conditions and notes</h2>
        <ul>
          {notes.map((one) => (
            <li key={one.sentence}>
              {GRADES[one.grade]?.word ?? one.grade}: {one.sentence}
            </li>
          ))}
          {rows.map((row) => (
            <AsideLines key={row.key} study={study} row={row} names={names} />
          ))}
          {noted.data?.map((one) => (
            <li key={one.id}>
              disturbance, {moment(one.at)}: {one.text}
            </li>
          ))}
          {notes.length === 0 && <li>every condition that was stated is the same</li>}
        </ul>
        <h2>How it was calculated</h2>
        <p>
          Medians with exact intervals; differences as Hodges–Lehmann shifts with intervals for the whole
          family of pairs, against{' '}
          {Object.keys(study.margins).length
            ? 'the margin that was stated before'
            : 'the usual margin of each measure: none was stated before'}
          . {findings.expected_false} The figures hold for these installs on these machines.
        </p>
      </Card>
    </Sheet>
  )
}

/** What was set aside of one row, and why; and what a person corrected. */
function AsideLines({ study, row, names }: { study: Study; row: FindingRow; names: Names }) {
  const columns = useQuery(columnsQuery(study.id, row.metric))
  const lines = columns.data ? ofRow(row, columns.data) : []
  return lines
    .filter((line) => line.isAside || line.valueBefore !== null)
    .map((line) => (
      <li key={line.id}>
        {line.isAside ? 'set aside' : 'corrected by hand'}: {measureSaid(row).toLowerCase()} of{' '}
        {names.get(line.laneNo)}, block {line.block}, {amount(line.value, row.scale)}
        {line.isAside ? `: ${line.setAside}` : ''}
        {line.valueBefore === null ? '' : `; before ${amount(line.valueBefore, row.scale)}`}
      </li>
    ))
}

function CardOver({ study, row, width }: { study: Study; row: MachinesRow; width: number }) {
  const pairs = useQuery(overMachinesQuery(study.id, row.key))
  const laneOf = (name: string) => study.contenders.find((one) => one.entrant === name)?.lane_no ?? 1
  return (
    <section>
      <h2>Over machines: {measureSaid(row).toLowerCase()}</h2>
      <Headline className="headline">{row.headline}</Headline>
      {pairs.isPending && <Skeleton variant="rounded" height={160} aria-label="Fetching the picture" />}
      {pairs.data && (
        <OverMachinesPicture
          row={row}
          pairs={pairs.data}
          baseline={pairs.data[0]!.a}
          laneOf={laneOf}
          width={width}
        />
      )}
    </section>
  )
}

function CardPicture({
  study,
  row,
  names,
  width,
}: {
  study: Study
  row: FindingRow
  names: Names
  width: number
}) {
  const columns = useQuery(columnsQuery(study.id, row.metric))
  return (
    <section>
      <h2>
        {measureSaid(row)}, {row.machine}
      </h2>
      <Headline className="headline">{row.headline}</Headline>
      {columns.isPending && <Skeleton variant="rounded" height={160} aria-label="Fetching the picture" />}
      {columns.data && (
        <RowPicture
          row={row}
          columns={columns.data}
          names={names}
          baseline={row.leader ?? row.lanes[0]!.lane_no}
          width={width}
          isLow
        />
      )}
    </section>
  )
}
