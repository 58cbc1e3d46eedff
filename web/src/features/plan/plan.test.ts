import { expect, test } from 'vitest'

import type { Draft } from '@/api/plan'
import type { Install, Study } from '@/api/types'

import {
  appsOf,
  draftOf,
  everyBlock,
  isEveryBlock,
  launchesOf,
  launchText,
  measureOf,
  missing,
  numbersIn,
  withBlocks,
  withOwn,
  withPlain,
} from './draft'
import { entrantNumbers, grid, referencesFor, type Thing } from './grid'
import { headline, looksCost, told, type OutlookLine } from './outlookWords'

const EMPTY = draftOf({ title: '', draft: null } as Study)
const draft = (part: Partial<Draft>): Draft => ({ ...EMPTY, ...part })

const thing = (name: string, makesGuests = false) =>
  ({ id: `id of ${name}`, name, makes_guests: makesGuests }) as Thing
const install = (system: string, machine: string, rig: string | null = 'guest') =>
  ({
    id: `${system}@${machine}`,
    system: { name: system },
    machine: { name: machine },
    rig,
    name: '',
  }) as Install

test('launches are written as the server reads them, a warm one in short', () => {
  const launches = launchesOf(['boot', 'launch:Coppicer', 'launch:Wayfarrow:first-after-boot'])
  expect(launches).toEqual([
    { app: 'Coppicer', start: 'warm' },
    { app: 'Wayfarrow', start: 'first-after-boot' },
  ])
  expect(launches.map(launchText)).toEqual(['launch:Coppicer', 'launch:Wayfarrow:first-after-boot'])
})

test('procedures stay in the order in which they are done', () => {
  const order = ['boot', 'idle', 'footprint', 'launch', 'least-memory']
  expect(withPlain(['footprint'], 'boot', true, order)).toEqual(['boot', 'footprint'])
  expect(withPlain(['boot', 'least-memory:64,96'], 'least-memory', false, order)).toEqual(['boot'])
})

test('what a plan still needs is named', () => {
  expect(missing(EMPTY)).toEqual(['its question', 'a contender', 'what is measured'])
  const whole = draft({ title: 'Which?', installs: ['a'], procedures: ['boot'] })
  expect(missing(whole)).toEqual([])
  expect(missing({ ...whole, procedures: ['launch:'] })).toEqual(['the name of each application'])
})

test('numbers parted by commas or blanks are read', () => {
  expect(numbersIn('10, 15 20, x, -3')).toEqual([10, 15, 20])
})

const systems = [thing('Osterfell Base', true), thing('Varrow 12')]
const machines = [thing('Guest', true), thing('Laptop')]

test('before anything is chosen the grid shows what can be run', () => {
  const shown = grid(
    EMPTY,
    [install('Varrow 12', 'Laptop'), install('Osterfell Base', 'Guest', null)],
    systems,
    machines,
  )
  expect(shown.systems.map((one) => one.name)).toEqual(['Varrow 12'])
  expect(shown.machines.map((one) => one.name)).toEqual(['Laptop'])
})

test('a system with an image can be put on a virtual machine, another cannot', () => {
  const asked = {
    systems: systems.map((one) => one.id),
    machines: machines.map((one) => one.id),
    installs: [],
  }
  const { cells } = grid(asked, [], systems, machines)
  expect(cells.map((row) => row.map((cell) => cell.canBeMade))).toEqual([
    [true, false],
    [false, false],
  ])
})

test('who takes part is numbered in the order of choosing, on whatever machine', () => {
  const installs = [install('A', 'One'), install('B', 'One'), install('B', 'Two')]
  const numbers = entrantNumbers({ installs: ['B@Two', 'A@One', 'B@One'] }, installs)
  expect([...numbers]).toEqual([
    ['B', 1],
    ['A', 2],
  ])
})

const line = (found: Partial<OutlookLine['found']>): OutlookLine => ({
  label: 'Power-on to ready',
  is_headline: true,
  scale: { label: 's', factor: 1, decimals: 1 },
  found: {
    metric: 'boot.total',
    machine: 'Laptop',
    method: 'probe',
    spread: 0.4,
    typical: 20,
    margin: 0.5,
    readings: 20,
    installs: 2,
    smallest: 1.2,
    leader: 1.4,
    level_repeats: 18,
    ...found,
  },
})

test('what it will tell is said with its figure, or why not', () => {
  expect(headline([line({})], false)).toBe('Tells power-on to ready apart from 1.2 s on')
  expect(headline([line({ smallest: null })], false)).toBe('Too few repeats for any verdict')
  expect(headline([line({ spread: null, smallest: null })], false)).toBe('Not known yet: a few blocks first')
  expect(told(line({}), false)).toBe('tells 1.2 s; level: 18 repeats')
  expect(told(line({ level_repeats: null }), false)).toBe('tells 1.2 s; never calls it level')
  expect(told(line({ spread: null, readings: 0 }), false)).toBe('no readings to tell from')
})

test('looks after every block go with the repeats, others stand', () => {
  expect(isEveryBlock(everyBlock(12))).toBe(true)
  expect(isEveryBlock([10, 12])).toBe(false)
  expect(isEveryBlock([1])).toBe(false)
  expect(withBlocks({ interim_looks: everyBlock(12) }, 3)).toEqual({ blocks: 3, interim_looks: [1, 2, 3] })
  expect(withBlocks({ interim_looks: [6, 12] }, 3)).toEqual({ blocks: 3 })
})

test('what looks cost is said in repeats', () => {
  expect(looksCost({ looks_most: 1, looks_typical: 1 }, 20)).toBe('')
  expect(looksCost({ looks_most: 1.09, looks_typical: 0.65 }, 22)).toBe(
    'What 20 repeats would tell with one look takes up to 22 this way, 13 on average.',
  )
})

test('a reference of a machine of the plan is offered until it takes part', () => {
  const installs = [
    install('A', 'One'),
    { ...install('R', 'One'), is_reference: true },
    { ...install('R', 'Two'), is_reference: true },
  ]
  expect(referencesFor({ installs: ['A@One'] }, installs).map((one) => one.id)).toEqual(['R@One'])
  expect(referencesFor({ installs: ['A@One', 'R@One'] }, installs)).toEqual([])
})

test('a measure of the tester’s own is asked for with its steps, once, and taken out again', () => {
  const order = ['boot', 'response', 'command', 'install']
  const key = 'own.s.low.Sort_seeds'
  const asked = withOwn(['boot', 'install', 'response:Terminal'], key, `command:${key}:0.01`, order)
  expect(asked).toEqual(['boot', 'response:Terminal', `command:${key}:0.01`, 'install'])
  expect(asked.map(measureOf).filter(Boolean)).toEqual([key])
  expect(withOwn(asked, key, `command:${key}`, order)).toHaveLength(4)
  expect(withOwn(asked, key, '', order)).toEqual(['boot', 'response:Terminal', 'install'])
  expect(appsOf(asked, 'response')).toEqual(['Terminal'])
  expect(appsOf(asked, 'frames')).toEqual([])
})
