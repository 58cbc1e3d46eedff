import { laneAppearance, markPath } from '@/theme/lanes'

import { shotAt, type Runner } from './race'

/** Colours by the name of their variable. */
export type Looks = { colour: (name: string) => string }

/** Pictures of screens as they can be drawn, by their text. */
export type Drawn = ReadonlyMap<string, CanvasImageSource & { width: number; height: number }>

export type Race = {
  title: string
  machine: string
  runners: readonly Runner[]
  names: ReadonlyMap<number, { name: string; entrant_no: number }>
  speed: number
  drawn: Drawn
}

const HEAD = "'Bricolage Grotesque Variable', sans-serif"
const TEXT = "'Public Sans Variable', sans-serif"
const LEFT = 560
const TOP = 250
const EDGE = 80

/** One frame: every lane as far as it had come `at` seconds, whole marks where its parts ended. */
export function drawRace(canvas: HTMLCanvasElement, race: Race, at: number, looks: Looks) {
  const ground = canvas.getContext('2d')!
  const { width, height } = canvas
  const ink = looks.colour('--hm-ink')
  const soft = looks.colour('--hm-soft')
  ground.fillStyle = looks.colour('--hm-sheet')
  ground.fillRect(0, 0, width, height)
  const say = (text: string, x: number, y: number, font: string, colour: string, most?: number) => {
    ground.font = font
    ground.fillStyle = colour
    ground.fillText(text, x, y, most)
  }
  const longest = Math.max(...race.runners.map((one) => one.total))
  const clock = Math.min(at, longest)
  say(race.title, EDGE, 110, `700 56px ${HEAD}`, ink, width - 520)
  const pace = race.speed === 1 ? 'in real time' : `${race.speed} times as fast as it was`
  say(`${race.machine}, ${pace}`, EDGE, 170, `400 34px ${TEXT}`, soft, width - 520)
  ground.textAlign = 'right'
  say(`${clock.toFixed(1)} s`, width - EDGE, 130, `700 96px ${HEAD}`, ink)
  ground.textAlign = 'left'
  const right = width - EDGE - 190
  const isShown = race.runners.some((one) => one.shots.length > 0)
  const tall = Math.min(isShown ? 260 : 130, (height - TOP - 60) / Math.max(race.runners.length, 1))
  const screen = isShown ? { width: tall * 1.44, height: tall * 0.9 } : null
  const left = screen ? LEFT + screen.width + 40 : LEFT
  const placeOf = (seconds: number) => left + ((right - left) * seconds) / longest
  race.runners.forEach((runner, i) => {
    const y = TOP + i * tall + tall / 2
    const known = race.names.get(runner.laneNo)
    const { colour, mark } = laneAppearance(known?.entrant_no ?? runner.laneNo)
    const own = looks.colour(colour)
    const now = Math.min(at, runner.total)
    if (screen) {
      ground.fillStyle = looks.colour('--hm-rule')
      ground.fillRect(LEFT, y - screen.height / 2, screen.width, screen.height)
      const shot = race.drawn.get(shotAt(runner.shots, now)?.png ?? '')
      if (shot) ground.drawImage(shot, ...within(shot, LEFT, y - screen.height / 2, screen))
    }
    const half = Math.min(tall, 130) * 0.16
    ground.fillStyle = looks.colour('--hm-rule')
    ground.fillRect(left, y - 3, right - left, 6)
    ground.fillStyle = own
    ground.fillRect(left, y - half, placeOf(now) - left, half * 2)
    ground.fillStyle = looks.colour('--hm-sheet')
    for (const end of runner.marks) if (end < now) ground.fillRect(placeOf(end) - 2, y - half, 4, half * 2)
    ground.save()
    ground.translate(placeOf(now), y)
    ground.fillStyle = own
    ground.fill(new Path2D(markPath(mark, Math.min(tall, 130) * 0.22)))
    ground.restore()
    say(known?.name ?? '', EDGE, y + 12, `650 36px ${TEXT}`, ink, LEFT - EDGE - 40)
    if (at >= runner.total) say(`${runner.total.toFixed(1)} s`, right + 40, y + 12, `700 38px ${HEAD}`, ink)
  })
}

type Size = { width: number; height: number }

/** Where a picture stands in the middle of a room, as large as it fits. */
function within(shot: Size, x: number, y: number, room: Size): [number, number, number, number] {
  const scale = Math.min(room.width / shot.width, room.height / shot.height)
  const [width, height] = [shot.width * scale, shot.height * scale]
  return [x + (room.width - width) / 2, y + (room.height - height) / 2, width, height]
}
