import type { FindingRow, Study } from '@/api/types'
import { MEANINGS } from '@/charts/layout/definitions'
import type { CurveOf } from '@/charts/layout/settling'

/** The metric whose curve shows how a machine settles. */
export const SETTLING = 'memory.used'

const SINCE = 'seconds since the run began'
const beside = (title: string, label: string, factor: number, decimals: number, what: string) => ({
  title,
  what,
  scale: { label, factor, decimals },
  axis: `${label || 'times'}, over ${SINCE}`,
  from: SINCE,
})

/** What is looked at beside every run, by its metric. */
export const BESIDE: Readonly<Record<string, CurveOf & { title: string }>> = {
  'machine.temperature': beside('Heat', '°C', 1, 1, 'The hottest part of the machine'),
  'machine.frequency': beside('Frequency', 'GHz', 1e9, 2, 'The mean frequency of the processors'),
  'machine.throttled': beside('Throttling', '', 1, 0, 'Times throttled by heat'),
}

const PARTS = /^boot\.(firmware|loader|menu|kernel|initrd|userspace)$/

/** The machines of a study in the order of their lanes. */
export const machinesOf = (study: Study) => [
  ...new Set(study.contenders.map((one) => one.install.machine.name)),
]

/** The names of the lanes on one machine. */
export const lanesOn = (
  study: Study,
  machine: string,
  names: ReadonlyMap<number, string>,
): ReadonlyMap<number, string> =>
  new Map(
    study.contenders
      .filter((one) => one.install.machine.name === machine)
      .map((one) => [one.lane_no, names.get(one.lane_no) ?? '']),
  )

/** The machines on which rows were measured. */
export const rowMachines = (rows: readonly FindingRow[]) => [...new Set(rows.map((row) => row.machine))]

/** Machines whose idle memory was read under two definitions at least. */
export const machinesWithDefinitions = (rows: readonly FindingRow[]) =>
  rowMachines(rows).filter(
    (machine) =>
      new Set(
        rows
          .filter((row) => row.machine === machine && row.facet === '' && row.metric in MEANINGS)
          .map((row) => row.metric),
      ).size > 1,
  )

/** Rows that can be set against one another: of one machine, with a good end and two lanes at least. */
export const tradable = (rows: readonly FindingRow[], machine: string) =>
  rows.filter(
    (row) =>
      row.machine === machine &&
      row.good_end !== 'none' &&
      row.lanes.filter((lane) => lane.summary).length > 1,
  )

/** Whether a boot was measured in its parts. */
export const hasParts = (rows: readonly FindingRow[]) =>
  rowMachines(rows).some(
    (machine) =>
      new Set(
        rows.filter((row) => row.machine === machine && PARTS.test(row.metric)).map((row) => row.metric),
      ).size > 1,
  )
