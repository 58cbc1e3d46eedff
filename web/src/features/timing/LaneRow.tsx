import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'

import type { MarkKind } from '@/api/byHand'
import { useAppearance } from '@/charts/appearance'
import { LaneSign } from '@/charts/marks/LaneMark'
import { HEADING } from '@/theme/theme'
import { Actions, Soft, SoftSmall } from '@/ui/kit'
import { Photographs, type Shown } from '@/ui/Photographs'

import { isOver, nextKind, span, type Lane, type Race } from './race'

const NARROW = '@media (max-width:700px)'
const Row = styled('div')({
  display: 'grid',
  gridTemplateColumns: '70px minmax(170px,250px) minmax(0,1fr) 170px',
  alignItems: 'center',
  gap: '4px 14px',
  borderBottom: '1px solid var(--hm-rule)',
  padding: '12px 18px',
  '&:last-of-type': { borderBottom: 0 },
  [NARROW]: { gridTemplateColumns: '1fr auto', padding: '10px 12px' },
})
const Key = styled('button')({
  font: `800 40px ${HEADING}`,
  width: 62,
  height: 64,
  borderRadius: 8,
  border: '2px solid',
  borderBottomWidth: 5,
  background: 'var(--hm-sheet)',
  color: 'var(--hm-ink)',
  cursor: 'pointer',
  touchAction: 'manipulation',
  '&:disabled': { color: 'var(--hm-soft)', cursor: 'default' },
  // the whole width under one thumb
  [NARROW]: { gridColumn: '1 / -1', width: '100%', height: 88, fontSize: 26, lineHeight: 1.1 },
  '& .next': { display: 'none', [NARROW]: { display: 'block', font: `650 17px ${HEADING}` } },
})
const Big = styled('div')({
  font: `700 46px/1 ${HEADING}`,
  letterSpacing: '-.02em',
  textAlign: 'right',
  [NARROW]: { fontSize: 34 },
})
const Track = styled('svg')({
  width: '100%',
  overflow: 'visible',
  [NARROW]: { gridColumn: '1 / -1', order: 5 },
})
const Names = styled('div')({ minWidth: 0, overflowWrap: 'anywhere', '& b': { fontSize: 17 } })
const WIDE = 640
const MOST_PHOTOGRAPHS = 3

type Props = {
  race: Race
  lane: Lane
  digit: number
  kinds: ReadonlyMap<string, MarkKind>
  now: number
  /** Milliseconds that the whole track stands for. */
  whole: number
  onPress: (stamp: number) => void
  onVoid: () => void
  onFail: (() => void) | null
  onRemove: (() => void) | null
  photographs?: readonly Shown[]
  onPhotographs?: (shown: readonly Shown[]) => void
  /** In the person's own words. */
  note?: string
  onNote?: () => void
  /** What to have ready, of a run that a sheet asks for. */
  ready?: string | null
}

/** One lane of a race: its key, its marks, its time. */
export function LaneRow(props: Props) {
  const { race, lane, digit, kinds, now, whole, onPress, onVoid, onFail, onRemove } = props
  const { photographs = [], onPhotographs, ready, note, onNote } = props
  const { colour } = useAppearance()(lane.laneNo)
  const waits = new Map([...kinds].map(([key, kind]) => [key, kind.ends_wait]))
  const next = nextKind(race, lane)
  const over = isOver(race, lane)
  const label = (kind: string | null) => (kind === null ? '' : (kinds.get(kind)?.label ?? kind))
  const begun = lane.marks[0]?.at
  const time = over && lane.voided === null ? span(lane, waits) : null
  const place = (at: number) => 8 + ((at - (begun ?? 0)) / whole) * (WIDE - 16)
  const low = staggered(lane.marks.slice(1).map((mark) => place(mark.at)))
  const end = over ? (lane.marks.at(-1)?.at ?? 0) : now
  const at = lane.marks.length ? label(lane.marks.at(-1)!.kind) : 'before the start'
  const state =
    lane.voided !== null
      ? `does not count: ${lane.voided}`
      : over
        ? lane.isHandedIn
          ? 'handed in'
          : 'done'
        : `waiting for: ${label(next)}`
  return (
    <Row>
      <Key
        disabled={over}
        aria-label={`${lane.system}: ${over ? 'done' : `mark ${label(next)}`}`}
        sx={{ borderColor: colour }}
        onPointerDown={(event) => {
          event.preventDefault() // the keys stay with the page
          onPress(event.timeStamp)
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && !event.repeat) onPress(event.timeStamp)
        }}
      >
        {digit}
        <span className="next" aria-hidden>
          {over ? 'done' : label(next)}
        </span>
      </Key>
      <Names>
        <b>
          <LaneSign laneNo={lane.laneNo} />
          {lane.system}
        </b>
        <Soft as="div">
          {lane.machine} · <span role="status">{state}</span>
        </Soft>
        {note && <SoftSmall as="div">{note}</SoftSmall>}
        {ready && begun === undefined && <SoftSmall as="div">Have ready: {ready}</SoftSmall>}
        {!lane.isHandedIn && (
          <Actions sx={{ gap: 0.5 }}>
            {onPhotographs && (
              <Photographs
                shown={photographs}
                of={lane.system}
                most={MOST_PHOTOGRAPHS}
                onAdd={(drawn) =>
                  onPhotographs([...photographs, ...drawn.map((one) => ({ ...one, name: at }))])
                }
                onRemove={(id) => onPhotographs(photographs.filter((one) => one.id !== id))}
              />
            )}
            {onNote && (
              <Button size="small" color="inherit" sx={{ minHeight: 44 }} onClick={onNote}>
                Note
              </Button>
            )}
            {lane.voided === null && onFail && (
              <Button size="small" color="inherit" sx={{ minHeight: 44 }} onClick={onFail}>
                It failed
              </Button>
            )}
            {lane.voided === null && begun !== undefined && (
              <Button size="small" color="inherit" sx={{ minHeight: 44 }} onClick={onVoid}>
                Void
              </Button>
            )}
            {onRemove && begun === undefined && (
              <Button size="small" color="inherit" sx={{ minHeight: 44 }} onClick={onRemove}>
                Take out
              </Button>
            )}
          </Actions>
        )}
      </Names>
      <Track viewBox={`0 -10 ${WIDE} 110`} role="img" aria-label={trackSaid(lane, label)}>
        <line
          x1={8}
          x2={WIDE - 8}
          y1={42}
          y2={42}
          className="rule"
          stroke="var(--hm-rule)"
          strokeWidth={8}
          strokeLinecap="round"
        />
        {begun !== undefined && (
          <line
            x1={8}
            x2={Math.min(place(end), WIDE - 8)}
            y1={42}
            y2={42}
            stroke={colour}
            strokeWidth={8}
            strokeLinecap="round"
            strokeDasharray={lane.voided === null ? undefined : '3 12'}
          />
        )}
        {lane.marks.slice(1).map((mark, i) => (
          <g key={`${mark.kind} ${mark.press}`}>
            <rect x={place(mark.at) - 3} y={25} width={6} height={34} rx={2} fill="var(--hm-ink)" />
            <text
              x={place(mark.at)}
              y={low[i] ? 2 : 18}
              textAnchor="middle"
              fontSize={15}
              fontWeight={650}
              fill="var(--hm-ink)"
            >
              {((mark.at - (begun ?? 0)) / 1000).toFixed(1)}
            </text>
            <text
              x={place(mark.at)}
              y={low[i] ? 94 : 78}
              textAnchor="middle"
              fontSize={14}
              fill="var(--hm-soft)"
            >
              {label(mark.kind)}
            </text>
          </g>
        ))}
      </Track>
      <Big sx={{ color: colour }}>
        {time === null ? (begun === undefined || over ? '' : '…') : `${time.toFixed(1)} s`}
        {time !== null && lane.marks.some((mark) => waits.get(mark.kind)) && (
          <SoftSmall as="div" sx={{ fontWeight: 400, letterSpacing: 0 }}>
            without your waits
          </SoftSmall>
        )}
      </Big>
    </Row>
  )
}

const NEAR = 112

/** Which of some places, in order, stand so near to the one before that their words go a line further. */
export function staggered(places: readonly number[]): boolean[] {
  const found: boolean[] = []
  for (const [i, at] of places.entries()) found.push(i > 0 && at - places[i - 1]! < NEAR && !found[i - 1])
  return found
}

const trackSaid = (lane: Lane, label: (kind: string) => string) =>
  lane.marks.length < 2
    ? `${lane.system}: no mark yet`
    : `${lane.system}: ${lane.marks
        .slice(1)
        .map((mark) => `${label(mark.kind)} after ${((mark.at - lane.marks[0]!.at) / 1000).toFixed(1)} s`)
        .join(', ')}`
