import { describe, expect, it } from 'vitest'

import {
  again,
  changed,
  clockText,
  emptyRace,
  isAllOver,
  nextKind,
  noted,
  pressed,
  span,
  takenBack,
  type Lane,
  type Race,
} from './race'

const lane = (id: string, laneNo: number): Lane => ({
  id,
  system: id,
  machine: 'Laptop',
  laneNo,
  asked: null,
  marks: [],
  voided: null,
  isHandedIn: false,
})
const race: Race = {
  ...emptyRace(['power', 'login', 'password', 'desktop']),
  lanes: [lane('a', 1), lane('b', 2)],
}
const WAITS = new Map([['password', 'login']])

describe('a race', () => {
  it('marks lanes in their order, all at once or each for itself', () => {
    const begun = pressed(race, ['a', 'b'], 0, 5000)
    const on = pressed(begun, ['b'], 12_000, 17_000)
    expect(on.begunAt).toBe(5000)
    expect(nextKind(on, on.lanes[0]!)).toBe('login')
    expect(nextKind(on, on.lanes[1]!)).toBe('password')
  })
  it('takes the last press back, wherever it marked', () => {
    const on = pressed(pressed(race, ['a', 'b'], 0, 1), ['a'], 9000, 2)
    const back = takenBack(on)
    expect(back.lanes.map((one) => one.marks.length)).toEqual([1, 1])
    expect(takenBack(back).begunAt).toBeNull()
    expect(takenBack(takenBack(back)).lanes.every((one) => one.marks.length === 0)).toBe(true)
  })
  it('leaves what is handed in alone', () => {
    const on = changed(pressed(race, ['a', 'b'], 0, 1), 'a', { isHandedIn: true })
    expect(takenBack(on).lanes.map((one) => one.marks.length)).toEqual([1, 0])
  })
  it('never runs backwards', () => {
    const on = pressed(pressed(race, ['a'], 5000, 1), ['a'], 4000, 2)
    expect(on.lanes[0]!.marks.map((mark) => mark.at)).toEqual([5000, 5000])
  })
  it('is over when every lane has its last mark or is void', () => {
    const done = [0, 1, 2, 3].reduce((now, i) => pressed(now, ['a'], i * 1000, 1), race)
    expect(isAllOver(done)).toBe(false)
    expect(isAllOver(changed(done, 'b', { voided: 'power cut' }))).toBe(true)
    expect(isAllOver(emptyRace(['power']))).toBe(false)
  })
  it('keeps waits of a person out of a lane’s time', () => {
    const at = [0, 10_000, 16_000, 20_000]
    const done = at.reduce((now, ms) => pressed(now, ['a'], ms, 1), race)
    expect(span(done.lanes[0]!, WAITS)).toBe(14)
    expect(span(lane('c', 3), WAITS)).toBeNull()
  })
  it('begins again with fresh ids and without what a sheet asked for', () => {
    const asked = { run: 'r', attempt: 1, study: 's', procedure: 'boot' }
    const next = again(changed(pressed(race, ['a', 'b'], 0, 1), 'b', { asked }), () => 'fresh')
    expect(next.lanes.map((one) => [one.id, one.marks.length])).toEqual([['fresh', 0]])
  })
  it('says each thing once', () => {
    expect(noted(noted(race, 'slept'), 'slept').notes).toEqual(['slept'])
  })
  it('writes minutes, seconds and tenths', () => {
    expect([clockText(0), clockText(62_449), clockText(600_000)]).toEqual(['0:00.0', '1:02.4', '10:00.0'])
  })
})
