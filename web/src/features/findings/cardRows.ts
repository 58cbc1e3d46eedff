import type { FindingRow, Study } from '@/api/types'

const MAIN = ['boot.total', 'memory.used', 'launch.settled', 'disk.used']
const MOST = 2

/** The rows whose pictures a race card shows: what testers ask for first, of the study's first machine. */
export function mainRows(rows: readonly FindingRow[]): FindingRow[] {
  const measured = rows.filter(
    (row) => row.verdict !== 'not comparable' && row.lanes.some((lane) => lane.summary),
  )
  const first = (metric: string) => measured.filter((row) => row.metric === metric).slice(0, 1)
  const main = MAIN.flatMap(first)
  return (main.length ? main : measured).slice(0, MOST)
}

/** Each machine with what is known of it. */
export function machineLines(study: Study): string[] {
  const machines = new Map(study.contenders.map((one) => [one.install.machine.name, one.install.machine]))
  return [...machines.values()].map((machine) => {
    const facts = Object.entries(machine.facts).map(([name, value]) =>
      name === 'cores' ? `${value} cores` : value,
    )
    return facts.length ? `${machine.name} (${facts.join(', ')})` : machine.name
  })
}
