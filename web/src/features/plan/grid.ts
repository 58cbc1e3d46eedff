import type { Draft } from '@/api/plan'
import type { Install, Schemas } from '@/api/types'

export type Thing = Schemas['ThingOut']

export type Cell = { system: Thing; machine: Thing; installs: readonly Install[]; canBeMade: boolean }

export type Grid = { systems: Thing[]; machines: Thing[]; cells: Cell[][] }

const MOST_BY_ITSELF = 12

/** Systems as rows, machines as columns: what was chosen or asked for, and before that what can be run. */
export function grid(
  draft: Pick<Draft, 'systems' | 'machines' | 'installs'>,
  installs: readonly Install[],
  systems: readonly Thing[],
  machines: readonly Thing[],
): Grid {
  const chosen = installs.filter((one) => draft.installs.includes(one.id))
  const runs = installs.filter((one) => one.rig !== null)
  const isOpen = chosen.length === 0 && draft.systems.length === 0 && draft.machines.length === 0
  const shown = isOpen ? runs : chosen
  const rows = systems
    .filter((one) => draft.systems.includes(one.id) || shown.some((each) => each.system.name === one.name))
    .slice(0, isOpen ? MOST_BY_ITSELF : undefined)
  const columns = machines
    .filter((one) => draft.machines.includes(one.id) || shown.some((each) => each.machine.name === one.name))
    .slice(0, isOpen ? MOST_BY_ITSELF : undefined)
  const cells = rows.map((system) =>
    columns.map((machine) => {
      const here = installs.filter(
        (one) => one.system.name === system.name && one.machine.name === machine.name,
      )
      const canBeMade = here.length === 0 && system.makes_guests && machine.makes_guests
      return { system, machine, installs: here, canBeMade }
    }),
  )
  return { systems: rows, machines: columns, cells }
}

/** References of the plan's machines that do not take part: with one of them in each, studies can be linked. */
export function referencesFor(draft: Pick<Draft, 'installs'>, installs: readonly Install[]): Install[] {
  const chosen = installs.filter((one) => draft.installs.includes(one.id))
  const machines = new Set(chosen.map((one) => one.machine.name))
  return installs.filter(
    (one) =>
      one.is_reference &&
      one.rig !== null &&
      machines.has(one.machine.name) &&
      !draft.installs.includes(one.id),
  )
}

/** Who takes part so far, by system: numbered in the order in which they were chosen, which gives colour and mark. */
export function entrantNumbers(
  draft: Pick<Draft, 'installs'>,
  installs: readonly Install[],
): ReadonlyMap<string, number> {
  const known = new Map(installs.map((one) => [one.id, one]))
  const names = draft.installs.flatMap((id) => known.get(id)?.system.name ?? [])
  return new Map([...new Set(names)].map((name, place) => [name, place + 1]))
}
