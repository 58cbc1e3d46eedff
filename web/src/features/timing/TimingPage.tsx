import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link } from 'react-router'

import { drillQuery, resultOf, waitingQuery, type HandIn, type Waiting, type Written } from '@/api/byHand'
import { HEADING } from '@/theme/theme'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, Main, Sheet, Soft, SoftSmall, TitleBar } from '@/ui/kit'
import { Select } from '@/ui/Select'
import { useShortcuts } from '@/ui/shortcuts'
import { LineDialog } from '@/ui/LineDialog'
import { Loading } from '@/ui/States'
import type { Shown } from '@/ui/Photographs'

import { Countdown } from './Countdown'
import { useKept } from '@/ui/kept'
import { freshId } from '@/ui/freshId'
import { TextLine } from '@/ui/TextLine'
import { LaneRow } from './LaneRow'
import { OwnLane } from './OwnLane'
import { useOutbox } from './outbox'
import {
  again,
  changed,
  handedMarks,
  clockText,
  isAllOver,
  nextKind,
  span,
  withAsked,
  answerId,
  type Lane,
} from './race'
import { Reaction } from './Reaction'
import { LeftRuns, MOST_LEFT, type Left } from './LeftRuns'
import { OnSheet } from './OnSheet'
import { OwnMarks } from './OwnMarks'
import { Handed } from './Handed'
import { useMarkLists } from './useMarkLists'
import { SoFar, type Past } from './SoFar'
import { TypeDialog } from './TypeDialog'
import { useRace } from './useRace'
import { useAwake } from './useAwake'
import { useOffline } from './useOffline'
import { WhyDialog } from './WhyDialog'

const Clock = styled('div')({
  font: `800 58px/1 ${HEADING}`,
  letterSpacing: '-.03em',
  fontVariantNumeric: 'tabular-nums',
  '@media (max-width:700px)': { fontSize: 40 },
})
const Two = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0,1fr) minmax(280px,430px)',
  gap: 16,
  marginTop: 16,
  alignItems: 'start',
  '@media (max-width:900px)': { gridTemplateColumns: 'minmax(0,1fr)' },
})
const Column = styled('div')({ display: 'grid', gap: 16, minWidth: 0 })

const TIMED = ['boot', 'install']
const UNKNOWN_HALF_S = 0.1
const MOST_PAST = 60
const FAILURES = ['it did not get past its loader', 'black screen', 'it hung', 'no network']
const SKIPS = ['no time', 'the machine is away']
const VOIDS = ['pressed too late', 'the wrong key', 'it asked something else']

type Asking = { what: 'fail' | 'void' | 'skip' | 'type' | 'note'; lane: Lane }

/** Several machines timed at once, by a key or a tap each; and what the sheet asks of a person. */
export function TimingPage() {
  const { marks, lists, kinds, save, drop } = useMarkLists()
  const waiting = useQuery(waitingQuery())
  const [person, setPerson] = useKept('person', '')
  const [title, setTitle] = useKept('title', '')
  const [session, setSession] = useKept<string>('session', freshId())
  const [past, setPast] = useKept<readonly Past[]>('past', [])
  const [listName, setListName] = useKept('list', 'To the desktop')
  const drill = useQuery(drillQuery(person))
  const outbox = useOutbox()
  const list = lists.find((one) => one.name === listName) ?? lists[0]
  const [isNaming, setNaming] = useState(false)
  const [photographs, setPhotographs] = useKept<Record<string, readonly Shown[]>>('photographs', {})
  const [said, setSaid] = useKept<Record<string, string>>('said', {})
  const [left, setLeft] = useKept<readonly Left[]>('left', [])
  const { race: kept, now, isRunning, isKept, press, undo, change, renew } = useRace(list?.kinds ?? [])
  const [asking, setAsking] = useState<Asking | null>(null)
  useAwake(isRunning)
  const [isKeeping, setKeeping] = useState(false)
  const isRefused = useOffline(() => setKeeping(true))
  const { refetch: askAgain, isSuccess: isAnswered } = marks
  useEffect(() => {
    // once more, through what keeps it
    if (isKeeping && isAnswered) void askAgain()
  }, [isKeeping, isAnswered, askAgain])
  const sent = new Set(outbox.parcels.flatMap((one) => one.results.map((result) => result.id)))
  const jobs = (waiting.data ?? []).filter((one) => {
    const id = answerId(one.run, one.attempt)
    return !sent.has(id) && !outbox.accepted.has(id) // the sheet is asked for every other second only
  })
  const timedJobs = jobs.filter((one) => TIMED.includes(one.procedure))
  const chosen = list?.kinds ?? kept.kinds
  const race = withAsked(kept.begunAt === null ? { ...kept, kinds: chosen } : kept, timedJobs)
  const waits = new Map([...kinds].map(([key, kind]) => [key, kind.ends_wait]))
  const isPersonKnown = person.trim() !== ''

  useEffect(() => {
    document.title = 'Timing · Hare Mile'
  }, [])

  const mark = (ids: readonly string[], stamp: number) => press(race, ids, stamp)
  const startAll = (stamp: number) =>
    mark(
      race.lanes.filter((lane) => lane.marks.length === 0).map((lane) => lane.id),
      stamp,
    )
  const bodyOf = (lane: Lane, part: Partial<HandIn>) =>
    resultOf({
      id: lane.id,
      run: lane.asked?.run ?? null,
      attempt: lane.asked?.attempt ?? null,
      system: lane.system,
      machine: lane.machine,
      procedure: lane.asked?.procedure ?? (race.kinds[0] === 'begin' ? 'install' : 'boot'),
      at: instant(race.begunAt),
      person: person.trim(),
      method: 'hand',
      note: [said[lane.id], ...race.notes].filter(Boolean).join('; '),
      photographs: (photographs[lane.id] ?? []).map(({ name, image }) => ({ name, image })),
      ...part,
    })
  const post = (lanes: readonly [Lane, Partial<HandIn>][]) => {
    const bodies = lanes.map(([lane, part]) => bodyOf(lane, part))
    for (const body of bodies.filter((one) => one.run))
      outbox.post({ id: body.id, results: [body], session, title: '' })
    const own = bodies.filter((one) => !one.run)
    if (own.length)
      outbox.post({ id: own[0]!.id, results: own, session, title: title.trim() || 'Timed by hand' })
  }
  const handInAll = () => {
    const done = race.lanes.filter((lane) => lane.voided === null && !lane.isHandedIn)
    post(
      done.map((lane) => [
        lane,
        {
          marks: handedMarks(lane),
          drill: drill.data?.id ?? null,
        },
      ]),
    )
    setPast(
      [
        ...past,
        ...done.map((lane) => ({
          name: lane.system,
          laneNo: lane.laneNo,
          value: span(lane, waits) ?? 0,
        })),
      ].slice(-MOST_PAST),
    )
    setPhotographs({})
    setSaid({})
    renew(again(race, freshId))
  }
  const say = (asked: Asking, reason: string) => {
    setAsking(null)
    if (asked.what === 'void') {
      change((one) => changed(one, asked.lane.id, { voided: reason }))
      return
    }
    post([[asked.lane, { outcome: asked.what === 'skip' ? 'skipped' : 'failed', reason, method: 'hand' }]])
    if (asked.lane.asked)
      setLeft([{ ...asked.lane.asked, system: asked.lane.system, why: reason }, ...left].slice(0, MOST_LEFT))
    if (race.begunAt !== null)
      change((one) => changed(one, asked.lane.id, { voided: `it failed: ${reason}`, isHandedIn: true }))
  }
  const type = (lane: Lane, written: Written[]) => {
    setAsking(null)
    post([[lane, { method: 'typed', written, at: new Date().toISOString() }]])
  }
  const isDone = isAllOver(race)
  const isStarted = race.begunAt !== null
  const next = [...new Set(race.lanes.map((lane) => nextKind(race, lane)).filter((one) => one !== null))]
  const canStart = race.lanes.some((lane) => lane.marks.length === 0) && isPersonKnown
  useShortcuts([
    ...race.lanes.slice(0, 9).map((lane, place) => ({
      key: String(place + 1),
      says: `Mark ${lane.system}`,
      run: (event: KeyboardEvent) => {
        if (isPersonKnown && !event.repeat) mark([lane.id], event.timeStamp)
      },
    })),
    {
      key: ' ',
      shown: 'Space',
      says: 'Start all lanes that have not begun',
      run: (event) => canStart && !event.repeat && startAll(event.timeStamp),
    },
    { key: 'Backspace', shown: '⌫', says: 'Take the last press back', run: () => undo() },
    { key: 'Enter', says: 'Hand in, and on to the next', run: () => isDone && handInAll() },
  ])
  const whole = Math.max(30_000, now * 1.05, ...race.lanes.map((lane) => (lane.marks.at(-1)?.at ?? 0) * 1.05))
  const study = outbox.studyOf(session)
  const others = jobs.filter((one) => !TIMED.includes(one.procedure))
  const half = drill.data ? 1.96 * drill.data.reaction.scatter_s : UNKNOWN_HALF_S
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Timing</h1>
          <Soft as="div">
            Press a lane’s digit at each mark. <KeyHint name="Space" /> starts all, <KeyHint name="⌫" /> takes
            the last press back. <Link to="/recording">From a recording instead</Link>
          </Soft>
        </div>
        <div>
          <SoftSmall as="div">{isStarted ? 'since the start' : 'not begun'}</SoftSmall>
          <Clock role="timer">{clockText(isStarted ? now : 0)}</Clock>
        </div>
      </TitleBar>
      <Actions sx={{ mt: 1.5, alignItems: 'center' }}>
        <TextLine label="Who times" value={person} onChange={setPerson} most={60} sx={{ width: 220 }} />
        <label>
          <SoftSmall>Marks </SoftSmall>
          <Select
            value={list?.name ?? ''}
            disabled={isStarted}
            onChange={(event) => setListName(event.target.value)}
          >
            {lists.map((one) => (
              <option key={one.name} value={one.name}>
                {one.name}
              </option>
            ))}
          </Select>
        </label>
        <Button color="inherit" sx={{ minHeight: 44 }} disabled={isStarted} onClick={() => setNaming(true)}>
          Marks of your own
        </Button>
        {list?.isOwn && !isStarted && (
          <Button color="inherit" sx={{ minHeight: 44 }} onClick={() => drop(list.name)}>
            Drop this list
          </Button>
        )}
        {list && <SoftSmall>{list.kinds.map((one) => kinds.get(one)?.label).join(' → ')}</SoftSmall>}
      </Actions>
      {marks.isPending && <Loading what="the marks" />}
      {marks.error && !marks.data && <Alert severity="error">{marks.error.message}</Alert>}
      {!isPersonKnown && <Soft as="p">Say who times first: it is kept with every reading.</Soft>}
      {race.lanes.length > 0 && (
        <Sheet sx={{ mt: 1.75 }} aria-label="Lanes" as="section">
          {race.lanes.map((lane, place) => (
            <LaneRow
              key={lane.id}
              race={race}
              lane={lane}
              digit={place + 1}
              kinds={kinds}
              now={now}
              whole={whole}
              onPress={(stamp) => isPersonKnown && mark([lane.id], stamp)}
              onVoid={() => setAsking({ what: 'void', lane })}
              onFail={() => setAsking({ what: 'fail', lane })}
              photographs={photographs[lane.id] ?? []}
              onPhotographs={(shown) => setPhotographs({ ...photographs, [lane.id]: shown })}
              note={said[lane.id] ?? ''}
              onNote={() => setAsking({ what: 'note', lane })}
              ready={timedJobs.find((one) => one.run === lane.asked?.run)?.ready ?? null}
              onRemove={
                lane.asked
                  ? null
                  : () =>
                      change((one) => ({ ...one, lanes: one.lanes.filter((other) => other.id !== lane.id) }))
              }
            />
          ))}
        </Sheet>
      )}
      <Actions sx={{ mt: 1.25, alignItems: 'center' }}>
        {canStart && (
          <Button
            variant="contained"
            sx={{ minHeight: 48 }}
            onPointerDown={(event) => startAll(event.timeStamp)}
            onKeyDown={(event) => event.key === 'Enter' && startAll(event.timeStamp)}
          >
            Start all
            <KeyHint name="Space" />
          </Button>
        )}
        {isStarted && (
          <Button variant="outlined" color="inherit" sx={{ minHeight: 48 }} onClick={undo}>
            Take back
            <KeyHint name="⌫" />
          </Button>
        )}
        {isDone && (
          <Button variant="contained" sx={{ minHeight: 48 }} onClick={handInAll}>
            Hand in, and on
            <KeyHint name="Enter" />
          </Button>
        )}
        {isStarted && !isDone && next.length === 1 && (
          <SoftSmall>{kinds.get(next[0]!)?.says && `Press ${kinds.get(next[0]!)!.says}.`}</SoftSmall>
        )}
      </Actions>
      {race.notes.map((note) => (
        <Soft as="p" key={note} role="note">
          {note}
        </Soft>
      ))}
      <Handed outbox={outbox} study={study} isKept={isKept} />
      <Two>
        <Column>
          {others.map((one) => (
            <OnSheet
              key={one.run}
              waiting={one}
              isOpen={isPersonKnown}
              onAsk={(what) => setAsking({ what, lane: laneOf(one) })}
            />
          ))}
          <LeftRuns left={left} onGone={(run) => setLeft(left.filter((one) => one.run !== run))} />
          <SoFar past={past} halfWidth={half} />
        </Column>
        <Column>
          {!isStarted && (
            <OwnLane
              title={title}
              onTitle={setTitle}
              isTitled={study === null}
              onAdd={(system, machine) =>
                change((one) => ({
                  ...one,
                  lanes: [
                    ...one.lanes,
                    {
                      id: freshId(),
                      system,
                      machine,
                      laneNo: one.lanes.length + timedJobs.length + 1,
                      asked: null,
                      marks: [],
                      voided: null,
                      isHandedIn: false,
                    },
                  ],
                }))
              }
              onFresh={
                past.length || study
                  ? () => {
                      setSession(freshId())
                      setPast([])
                      change((one) => ({ ...one, lanes: [] }))
                    }
                  : null
              }
            />
          )}
          {!isStarted && <Countdown isReady={canStart} onStart={startAll} />}
          <Reaction person={person.trim()} />
          {!window.isSecureContext && (
            <Soft as="p" role="note">
              Over plain HTTP this page cannot be loaded anew without the network, and cannot keep the screen
              awake: keep it open, and set the screen to stay on. With a certificate that this device trusts
              it can do both.
            </Soft>
          )}
          {isRefused && (
            <Soft as="p" role="note">
              This browser does not keep the page: it cannot be loaded anew without the network, so keep it
              open. It would with a certificate that this device trusts, outside a private window. The screen
              stays awake.
            </Soft>
          )}
        </Column>
      </Two>
      {isNaming && (
        <OwnMarks
          kinds={kinds}
          taken={lists.map((one) => one.name)}
          onClose={() => setNaming(false)}
          onSave={(made) => {
            save(made)
            setListName(made.name)
            setNaming(false)
          }}
        />
      )}
      {asking?.what === 'note' && (
        <LineDialog
          title={`${asking.lane.system}: a note`}
          label="In plain words"
          action="Keep it"
          initial={said[asking.lane.id]}
          mayBeEmpty
          error={null}
          isPending={false}
          onClose={() => setAsking(null)}
          onSay={(text) => {
            setSaid({ ...said, [asking.lane.id]: text })
            setAsking(null)
          }}
        >
          What disturbed it, or what was done differently this time. It is kept with the run.
        </LineDialog>
      )}
      {asking && asking.what !== 'type' && asking.what !== 'note' && (
        <WhyDialog
          title={`${asking.lane.system}: ${{ fail: 'it failed', void: 'this does not count', skip: 'skip this run' }[asking.what]}`}
          action={{ fail: 'It failed', void: 'Void', skip: 'Skip' }[asking.what]}
          offered={{ fail: FAILURES, void: VOIDS, skip: SKIPS }[asking.what]}
          onClose={() => setAsking(null)}
          onSay={(reason) => say(asking, reason)}
        />
      )}
      {asking?.what === 'type' && (
        <TypeDialog
          title={`${asking.lane.system} on ${asking.lane.machine}`}
          procedure={asking.lane.asked?.procedure ?? 'boot'}
          measure={asking.lane.asked?.measure}
          onClose={() => setAsking(null)}
          onSay={(written) => type(asking.lane, written)}
        />
      )}
    </Main>
  )
}

const instant = (ms: number | null) => new Date(ms ?? Date.now()).toISOString()

const laneOf = (one: Waiting): Lane =>
  withAsked({ kinds: [], lanes: [], begunAt: null, notes: [] }, [one]).lanes[0]!
