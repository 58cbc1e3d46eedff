/** A race: lanes whose marks are pressed in order. Times in milliseconds since its begin. */

export type Mark = { kind: string; at: number; press: number }

/** What a person's sheet asked for. */
export type Asked = {
  run: string
  attempt: number
  study: string
  procedure: string
  /** The measure of the tester's own that it is, where it is one. */
  measure?: string
}

export type Lane = {
  /** Its result's id: sent again, it is kept once. */
  id: string
  system: string
  machine: string
  laneNo: number
  asked: Asked | null
  marks: readonly Mark[]
  /** Why it does not count. */
  voided: string | null
  isHandedIn: boolean
}

export type Race = {
  kinds: readonly string[]
  lanes: readonly Lane[]
  /** When it began, on the clock of the day; null before the first mark. */
  begunAt: number | null
  /** What may have touched its times, in words. */
  notes: readonly string[]
}

export const emptyRace = (kinds: readonly string[]): Race => ({
  kinds,
  lanes: [],
  begunAt: null,
  notes: [],
})

/** A mark of the tester's own carries its name behind its kind. */
export const ownKind = (base: string, name: string) => `${base}:${name}`
export const ownBase = (kind: string) => kind.split(':', 1)[0]!
export const ownName = (kind: string) => kind.slice(ownBase(kind).length + 1)

/** The marks of a lane as they are handed in. */
export const handedMarks = (lane: Lane) =>
  lane.marks.map((one) => ({ kind: ownBase(one.kind), name: ownName(one.kind), at_s: one.at / 1000 }))

export const nextKind = (race: Race, lane: Lane): string | null =>
  lane.voided !== null ? null : (race.kinds[lane.marks.length] ?? null)

export const isOver = (race: Race, lane: Lane) => lane.voided !== null || nextKind(race, lane) === null

export const isAllOver = (race: Race) =>
  race.lanes.length > 0 && race.lanes.every((lane) => isOver(race, lane))

const newest = (race: Race) =>
  Math.max(0, ...race.lanes.flatMap((lane) => lane.marks.map((mark) => mark.press)))

/** The next mark of these lanes, all in one press. */
export function pressed(race: Race, ids: readonly string[], at: number, wall: number): Race {
  const press = newest(race) + 1
  const lanes = race.lanes.map((lane) => {
    const kind = ids.includes(lane.id) ? nextKind(race, lane) : null
    const last = lane.marks.at(-1)?.at ?? 0
    return kind === null ? lane : { ...lane, marks: [...lane.marks, { kind, at: Math.max(at, last), press }] }
  })
  return { ...race, lanes, begunAt: race.begunAt ?? wall }
}

/** The last press taken back, in every lane that it marked; lanes that are handed in stay. */
export function takenBack(race: Race): Race {
  const open = race.lanes.filter((lane) => !lane.isHandedIn)
  const press = Math.max(0, ...open.flatMap((lane) => lane.marks.map((mark) => mark.press)))
  if (press === 0) return race
  const lanes = race.lanes.map((lane) =>
    lane.isHandedIn ? lane : { ...lane, marks: lane.marks.filter((mark) => mark.press !== press) },
  )
  const isBare = lanes.every((lane) => lane.marks.length === 0)
  return { ...race, lanes, begunAt: isBare ? null : race.begunAt }
}

export const changed = (race: Race, id: string, part: Partial<Lane>): Race => ({
  ...race,
  lanes: race.lanes.map((lane) => (lane.id === id ? { ...lane, ...part } : lane)),
})

export const noted = (race: Race, note: string): Race =>
  race.notes.includes(note) ? race : { ...race, notes: [...race.notes, note] }

/** The same lanes for the next race, with fresh ids; those of a sheet come from it anew. */
export const again = (race: Race, freshId: () => string): Race => ({
  ...race,
  begunAt: null,
  notes: race.lanes.flatMap((lane) =>
    lane.voided === null || lane.isHandedIn ? [] : [`a try before did not count: ${lane.voided}`],
  ),
  lanes: race.lanes
    .filter((lane) => lane.asked === null)
    .map((lane) => ({ ...lane, id: freshId(), marks: [], voided: null, isHandedIn: false })),
})

/** Seconds of a lane so far, waits of a person taken out, as far as it has a mark that ends one. */
export function span(lane: Lane, waits: ReadonlyMap<string, string | null>, until?: number): number | null {
  const first = lane.marks[0]
  const last = lane.marks.at(-1)
  if (!first || !last) return null
  const waited = lane.marks.reduce((sum, mark, place) => {
    const before = lane.marks[place - 1]
    return before && waits.get(mark.kind) ? sum + mark.at - before.at : sum
  }, 0)
  return Math.max((until ?? last.at) - first.at - waited, 0) / 1000
}

/** Minutes, seconds and tenths: `1:02.4`. */
export function clockText(ms: number): string {
  const tenths = Math.floor(Math.max(ms, 0) / 100)
  const minutes = Math.floor(tenths / 600)
  const rest = tenths - minutes * 600
  return `${minutes}:${String(Math.floor(rest / 10)).padStart(2, '0')}.${rest % 10}`
}

/** The id of what answers an attempt at a run: always the same, so that it is kept once. */
export const answerId = (run: string, attempt: number) =>
  run.slice(0, -4) + (attempt % 0x10000).toString(16).padStart(4, '0')

/** What a run on the sheet asks for. */
export const askedOf = (one: Asked & { conditions: Record<string, string> }): Asked => ({
  run: one.run,
  attempt: one.attempt,
  study: one.study,
  procedure: one.procedure,
  measure: one.conditions.measure,
})

/** The lanes of what waits on the sheet, before those of the tester's own. */
export function withAsked(
  race: Race,
  waiting: readonly {
    run: string
    attempt: number
    study: string
    procedure: string
    conditions: Record<string, string>
    system: string
    machine: string
    entrant_no: number
  }[],
): Race {
  if (race.begunAt !== null) return race
  const asked = waiting.map((one) => ({
    id: answerId(one.run, one.attempt),
    system: one.system,
    machine: one.machine,
    laneNo: one.entrant_no,
    asked: askedOf(one),
    marks: [],
    voided: null,
    isHandedIn: false,
  }))
  return { ...race, lanes: [...asked, ...race.lanes.filter((lane) => lane.asked === null)] }
}
