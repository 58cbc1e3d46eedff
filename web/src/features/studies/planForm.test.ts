import { expect, test } from 'vitest'

import { planOf } from './planForm'

const form = (fields: Record<string, string | string[]>) => {
  const made = new FormData()
  for (const [name, value] of Object.entries(fields)) for (const one of [value].flat()) made.append(name, one)
  return made
}

test('a plan is what stands in its form, in canonical units', () => {
  const plan = planOf(
    form({
      title: 'Which?',
      blocks: '12',
      seconds: '0.5',
      mib: '2',
      procedure: ['boot', 'idle'],
      launches: 'Coppicer, ,Wayfarrow',
      looks: '6, 12',
      seed: '',
    }),
    ['a', 'b'],
  )
  expect(plan).toEqual({
    title: 'Which?',
    installs: ['a', 'b'],
    blocks: 12,
    seed: null,
    procedures: ['boot', 'idle', 'launch:Coppicer', 'launch:Wayfarrow'],
    interim_looks: [6, 12],
    margins: { 'boot.total': { amount: 0.5 }, 'memory.used': { amount: 2 * 2 ** 20 } },
  })
})

test('fields that are empty are left to what is usual', () => {
  const plan = planOf(form({ blocks: '', seconds: '', mib: '', launches: '', looks: '' }), [])
  expect([plan.blocks, plan.margins, plan.interim_looks, plan.procedures]).toEqual([10, {}, [], []])
})
