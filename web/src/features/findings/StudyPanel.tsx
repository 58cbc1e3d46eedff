import { useQuery } from '@tanstack/react-query'
import { useRef, useState, type ReactNode } from 'react'

import { bootPartsQuery, tracesQuery } from '@/api/queries'
import type { FindingRow, Findings, Study } from '@/api/types'
import { BootPartsPicture } from '@/charts/BootPartsPicture'
import { DefinitionsPicture } from '@/charts/DefinitionsPicture'
import { SettlingPicture } from '@/charts/SettlingPicture'
import { TradeOffPicture } from '@/charts/TradeOffPicture'
import { frontierOf } from '@/charts/layout/tradeOff'
import { Failed, Loading } from '@/ui/States'
import { useWidth } from '@/ui/useWidth'

import { Facts } from './Facts'
import { KeepButtons } from './KeepButtons'
import { RaceCard } from './RaceCard'
import { partsSaid } from './partsSaid'
import { machinesWithDefinitions, tradable } from './studyPictures'

type Names = ReadonlyMap<number, string>
type Props = { study: Study; findings: Findings; names: Names; picture: string }

/** A picture of the whole study rather than of one measure. */
export function StudyPanel({ study, findings, names, picture }: Props) {
  if (picture === 'parts') return <Parts study={study} names={names} />
  if (picture === 'memory') return <Memory study={study} findings={findings} names={names} />
  if (picture === 'settling') return <Settling study={study} names={names} />
  if (picture === 'trade') return <Trade study={study} findings={findings} names={names} />
  if (picture === 'facts') return <Facts study={study} findings={findings} names={names} />
  return <RaceCard study={study} findings={findings} names={names} />
}

type PanelProps = { study: Study; title: string; says: string; about: string; children: (width: number) => ReactNode }

function Panel({ study, title, says, about, children }: PanelProps) {
  const [ref, width] = useWidth<HTMLDivElement>(828)
  return (
    <div className="sheet" ref={ref}>
      <div className="paneltop">
        <h2>{title}</h2>
        <span className="soft">{about}</span>
      </div>
      <p className="answer" data-testid="answer">{says}</p>
      {children(width)}
      <div className="foot">
        <KeepButtons box={ref} head={[says, `${title}; ${about}; ${study.title}`]} name={[study.title, title]} />
      </div>
    </div>
  )
}

function Parts({ study, names }: { study: Study; names: Names }) {
  const parts = useQuery(bootPartsQuery(study.id))
  if (parts.error) return <Failed error={parts.error} onRetry={() => void parts.refetch()} />
  if (!parts.data) return <Loading what="the parts of the boot" />
  return (
    <div style={{ display: 'grid', gap: 14 }}>
      {parts.data.map((found) => (
        <Panel key={found.machine} study={study} title="Parts of the boot" says={partsSaid(found, names)} about={`seconds, ${found.machine}; thin bars: interval of each boundary`}>
          {(width) => <BootPartsPicture found={found} names={names} width={width} />}
        </Panel>
      ))}
    </div>
  )
}

function Memory({ study, findings, names }: { study: Study; findings: Findings; names: Names }) {
  return (
    <div style={{ display: 'grid', gap: 14 }}>
      {machinesWithDefinitions(findings.rows).map((machine) => (
        <Panel key={machine} study={study} title="Memory definitions" says="The same instant gives another figure under each definition: only like may be set against like." about={machine}>
          {(width) => <DefinitionsPicture rows={findings.rows} machine={machine} names={names} width={width} />}
        </Panel>
      ))}
    </div>
  )
}

function Settling({ study, names }: { study: Study; names: Names }) {
  const traces = useQuery(tracesQuery(study.id, 'memory.used'))
  if (traces.error) return <Failed error={traces.error} onRetry={() => void traces.refetch()} />
  if (!traces.data) return <Loading what="the curves" />
  const { data } = traces
  const runs = new Set(data.map((one) => one.run_id)).size
  return (
    <Panel study={study} title="Settling" says={`Where idle was declared in each of ${runs} runs.`} about={[...new Set(study.contenders.map((one) => one.install.machine.name))].join(', ')}>
      {(width) => <SettlingPicture traces={data} names={names} width={width} />}
    </Panel>
  )
}

const startOf = (row: FindingRow) => (row.start ? `, ${row.start.replaceAll('-', ' ')}` : '')

function Trade({ study, findings, names }: { study: Study; findings: Findings; names: Names }) {
  const machine = findings.rows[0]!.machine
  const rows = tradable(findings.rows, machine)
  const other = rows.find((row) => row.metric === 'memory.used') ?? rows[1]!
  const [acrossKey, setAcross] = useState(rows[0]!.key)
  const [upKey, setUp] = useState(other.key)
  const across = rows.find((row) => row.key === acrossKey) ?? rows[0]!
  const up = rows.find((row) => row.key === upKey) ?? other
  const box = useRef<HTMLDivElement>(null)
  return (
    <div ref={box}>
      <Panel study={study} title={`${across.label} and ${up.label.toLowerCase()}`} says={tradeSaid(across, up, names)} about={machine}>
        {(width) => (
          <>
            <div className="foot noprint" style={{ borderTop: 0 }}>
              <Chooser label="across" rows={rows} chosen={across.key} onChoose={setAcross} />
              <Chooser label="up" rows={rows} chosen={up.key} onChoose={setUp} />
            </div>
            <TradeOffPicture across={across} up={up} names={names} width={width} />
          </>
        )}
      </Panel>
    </div>
  )
}

function Chooser({ label, rows, chosen, onChoose }: { label: string; rows: readonly FindingRow[]; chosen: string; onChoose: (key: string) => void }) {
  return (
    <label className="soft">
      {label}{' '}
      <select value={chosen} onChange={(event) => onChoose(event.target.value)}>
        {rows.map((row) => (
          <option key={row.key} value={row.key}>
            {row.label}
            {startOf(row)}
            {`, ${row.method}`}
          </option>
        ))}
      </select>
    </label>
  )
}

/** Who is on the frontier, in a sentence. */
export function tradeSaid(across: FindingRow, up: FindingRow, names: Names): string {
  const at = (row: FindingRow, lane: number) => row.lanes.find((one) => one.lane_no === lane)?.summary?.median ?? null
  const points = across.lanes.flatMap(({ lane_no: laneNo }) => {
    const [x, y] = [at(across, laneNo), at(up, laneNo)]
    return x === null || y === null ? [] : [{ laneNo, x, y }]
  })
  const best = frontierOf(points, across, up).map((one) => names.get(one.laneNo))
  if (best.length === 1) return `By its medians ${best[0]} is best in both.`
  return `By their medians no other beats these in both: ${best.join(', ')}.`
}
