import { describe, expect, it } from 'vitest'

import type { Install } from '@/api/types'

import { entrantNumbers, grid, referencesFor, type Thing } from './grid'

const thing = (name: string, makes_guests = false) => ({ id: name, name, makes_guests }) as unknown as Thing
const install = (system: string, machine: string, change: Partial<Install> = {}) =>
  ({
    id: `${system} ${machine}`,
    system: { name: system },
    machine: { name: machine },
    rig: 'here',
    is_reference: false,
    ...change,
  }) as unknown as Install

const SYSTEMS = [thing('Varrow 12', true), thing('Quillfern 8'), thing('Osterfell')]
const MACHINES = [thing('Bench', true), thing('Old laptop')]
const INSTALLS = [
  install('Varrow 12', 'Bench'),
  install('Quillfern 8', 'Bench', { rig: null }),
  install('Osterfell', 'Old laptop', { is_reference: true }),
]
const nothing = { systems: [], machines: [], installs: [] }

describe('the grid of a plan', () => {
  it('shows what can be run before anything is chosen', () => {
    const found = grid(nothing, INSTALLS, SYSTEMS, MACHINES)
    expect(found.systems.map((one) => one.name)).toEqual(['Varrow 12', 'Osterfell'])
    expect(found.machines.map((one) => one.name)).toEqual(['Bench', 'Old laptop'])
  })
  it('shows what was chosen or asked for, and no more, once there is any', () => {
    const draft = { ...nothing, installs: ['Varrow 12 Bench'], systems: ['Quillfern 8'] }
    const found = grid(draft, INSTALLS, SYSTEMS, MACHINES)
    expect(found.systems.map((one) => one.name)).toEqual(['Varrow 12', 'Quillfern 8'])
    expect(found.machines.map((one) => one.name)).toEqual(['Bench'])
  })
  it('has every install in its cell, and says where a guest could be made', () => {
    const draft = {
      ...nothing,
      installs: ['Osterfell Old laptop'],
      systems: ['Varrow 12'],
      machines: ['Bench'],
    }
    const { cells } = grid(draft, INSTALLS, SYSTEMS, MACHINES)
    const [varrow, osterfell] = cells
    expect(varrow!.map((cell) => cell.installs.length)).toEqual([1, 0])
    expect(osterfell!.map((cell) => cell.installs.length)).toEqual([0, 1])
    expect(varrow!.map((cell) => cell.canBeMade)).toEqual([false, false])
    const bare = grid(draft, [INSTALLS[2]!], SYSTEMS, MACHINES)
    expect(bare.cells[0]!.map((cell) => cell.canBeMade)).toEqual([true, false])
  })
})

describe('references', () => {
  it('are offered where their machine takes part and they do not', () => {
    const other = install('Varrow 12', 'Old laptop')
    const all = [...INSTALLS, other]
    expect(referencesFor({ installs: [other.id] }, all).map((one) => one.id)).toEqual([
      'Osterfell Old laptop',
    ])
    expect(referencesFor({ installs: ['Osterfell Old laptop'] }, all)).toEqual([])
    expect(referencesFor({ installs: ['Varrow 12 Bench'] }, all)).toEqual([])
  })
})

describe('numbers of those who take part', () => {
  it('follow the order in which systems were chosen, one for each', () => {
    const more = [...INSTALLS, install('Varrow 12', 'Old laptop')]
    const chosen = ['Osterfell Old laptop', 'Varrow 12 Bench', 'Varrow 12 Old laptop', 'gone']
    expect([...entrantNumbers({ installs: chosen }, more)]).toEqual([
      ['Osterfell', 1],
      ['Varrow 12', 2],
    ])
  })
})
