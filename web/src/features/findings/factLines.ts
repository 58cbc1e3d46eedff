import type { Findings, RunSheet, Study } from '@/api/types'
import { amount } from '@/format/numbers'

export type FactLine = { label: string; values: (string | null)[]; differs: boolean }

const CONDITIONS: Record<string, string> = {
  medium: 'medium',
  kernel: 'kernel',
  session: 'session',
  autologin: 'autologin',
  updates_pending: 'updates pending',
  power: 'power source',
  governor: 'processor governor',
  firmware: 'firmware',
  cores: 'cores',
  memory: 'memory',
  accelerator: 'accelerator',
  recorder: 'screen recorder',
  app_version: 'application version',
  switching: 'switching',
  probe_version: 'probe',
}
const COUNTED = ['package.count', 'disk.used', 'disk.image']

/** Facts of the contenders, the differing ones first; what nobody states is left out. */
export function factLines(study: Study, findings: Findings, sheet: RunSheet): FactLine[] {
  const systems = study.contenders.map((one) => one.install.system)
  const own: [string, (string | null)[]][] = [
    ['distribution', systems.map((one) => one.distribution)],
    ['release', systems.map((one) => one.release)],
    ['edition', systems.map((one) => one.edition)],
    ['architecture', systems.map((one) => one.architecture)],
    ['machine', study.contenders.map((one) => one.install.machine.name)],
  ]
  const last = new Map(sheet.lanes.map((lane) => [lane.lane_no, lane.observed_conditions]))
  const observed = Object.entries(CONDITIONS).map(([key, label]): [string, (string | null)[]] => [
    label,
    study.contenders.map((one) => last.get(one.lane_no)?.[key] ?? null),
  ])
  const measured = COUNTED.flatMap((metric): [string, (string | null)[]][] => {
    const row = findings.rows.find((one) => one.metric === metric)
    if (!row) return []
    const value = (lane: number) => row.lanes.find((one) => one.lane_no === lane)?.summary?.median ?? null
    return [
      [
        row.label.toLowerCase(),
        study.contenders.map((one) => {
          const median = value(one.lane_no)
          return median === null ? null : amount(median, row.scale)
        }),
      ],
    ]
  })
  return [...own, ...observed, ...measured]
    .filter(([, values]) => values.some((value) => value !== null))
    .map(([label, values]) => ({ label, values, differs: new Set(values).size > 1 }))
    .sort((a, b) => Number(b.differs) - Number(a.differs))
}
