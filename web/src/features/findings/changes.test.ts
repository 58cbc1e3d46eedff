import { describe, expect, it } from 'vitest'

import type { Study } from '@/api/types'
import { row, sheet } from '@/charts/layout/testRow'

import { changeKinds, changesOf } from './changes'

type Seat = { system?: string; release?: string | null; edition?: string; name?: string; machine?: string }

const study = (...seats: Seat[]) =>
  ({
    contenders: seats.map((seat, i) => ({
      id: String(i),
      lane_no: i + 1,
      label: '',
      entrant: `${seat.system ?? 'Varrow 12'} ${seat.name ?? ''}`.trim(),
      entrant_no: i + 1,
      install: {
        name: seat.name ?? '',
        machine: { name: seat.machine ?? 'Bench' },
        system: {
          name: seat.system ?? 'Varrow 12',
          distribution: 'Varrow',
          release: seat.release === undefined ? '12' : seat.release,
          edition: seat.edition ?? 'Thistlow',
        },
      },
    })),
  }) as unknown as Study

const observed = (...conditions: Record<string, string>[]) => ({
  ...sheet([]),
  lanes: conditions.map((one, i) => ({ lane_no: i + 1, half_width_share: null, observed_conditions: one })),
})

describe('what changed between contenders', () => {
  it('is installing and updating, where nothing else differs', () => {
    const kinds = changeKinds(
      study({ name: 'live' }, { name: 'fresh' }, { name: 'updated' }),
      observed(
        { medium: 'live', updates_pending: '4' },
        { medium: 'installed', updates_pending: '4' },
        { medium: 'installed', updates_pending: '0' },
      ),
    )
    expect(
      kinds.map((kind) => [kind.id, kind.steps.map((step) => [step.before.lane_no, step.after.lane_no])]),
    ).toEqual([
      ['installing', [[1, 2]]],
      ['updating', [[2, 3]]],
    ])
  })
  it('is a newer release, and a desktop on a bare base', () => {
    const releases = changeKinds(
      study({ system: 'V 9', release: '9' }, { system: 'V 10', release: '10' }),
      observed(),
    )
    expect(releases.map((kind) => [kind.id, kind.steps[0]!.before.lane_no])).toEqual([['release', 1]])
    const desktops = changeKinds(study({ edition: 'Thistlow' }, { edition: 'Base' }), observed())
    expect(desktops.map((kind) => [kind.id, kind.steps[0]!.before.lane_no])).toEqual([['desktop', 2]])
  })
  it('is nothing between machines', () => {
    expect(changeKinds(study({ release: '9' }, { release: '10', machine: 'Board' }), observed())).toEqual([])
  })
  it('is drawn where both lanes were read, named by what tells the pairs apart', () => {
    const two = study({ system: 'V 9', release: '9' }, { system: 'V 10', release: '10' })
    const [kind] = changeKinds(two, observed())
    expect(changesOf(kind!, [row()]).map((change) => change.label)).toEqual(['V 10'])
    expect(changesOf(kind!, [row({ machine: 'Board' })])).toEqual([])
  })
})
