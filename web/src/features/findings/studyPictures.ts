import type { FindingRow, Study } from '@/api/types'
import { MEANINGS } from '@/charts/layout/definitions'
import type { CurveOf } from '@/charts/layout/settling'

/** The metric whose curve shows how a machine settles. */
export const SETTLING = 'memory.used'

const SINCE = 'over seconds since the run began'
/** What is looked at beside every run, by its metric. */
export const BESIDE: Readonly<Record<string, CurveOf & { title: string }>> = {
  'machine.temperature': {
    title: 'Heat',
    scale: { label: '°C', factor: 1, decimals: 1 },
    what: 'The hottest part of the machine',
    axis: `°C, ${SINCE}`,
    from: 'seconds since the run began',
  },
  'machine.frequency': {
    title: 'Frequency',
    scale: { label: 'GHz', factor: 1e9, decimals: 2 },
    what: 'The mean frequency of the processors',
    axis: `GHz, ${SINCE}`,
    from: 'seconds since the run began',
  },
  'machine.throttled': {
    title: 'Throttling',
    scale: { label: '', factor: 1, decimals: 0 },
    what: 'Times throttled by heat',
    axis: `times, ${SINCE}`,
    from: 'seconds since the run began',
  },
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
