import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useEffect, useRef, useState, type FormEvent } from 'react'
import { Link, useNavigate } from 'react-router'

import { resultOf, useHandIn } from '@/api/byHand'
import { KeyHint } from '@/ui/KeyHint'
import { useKept } from '@/ui/kept'
import { Actions, Box, LinkButton, Main, Sheet, Soft, SoftSmall, Stack, TitleBar } from '@/ui/kit'
import { still } from '@/ui/photograph'
import { Select } from '@/ui/Select'
import { useShortcuts } from '@/ui/shortcuts'
import { freshId } from '@/ui/freshId'
import { TextLine } from '@/ui/TextLine'

import { frameInterval, frameText, isTouched, secondsOf, type Stretch } from './frames'
import { LaneRow } from './LaneRow'
import { OwnLane } from './OwnLane'
import {
  changed,
  emptyRace,
  isAllOver,
  nextKind,
  pressed,
  takenBack,
  type Lane,
  type Race,
  handedMarks,
} from './race'
import { useMarkLists } from './useMarkLists'

const Screen = styled('video')({ width: '100%', maxHeight: 460, background: '#000', display: 'block' })
const Two = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0,1.6fr) minmax(300px,1fr)',
  gap: 16,
  marginTop: 12,
  alignItems: 'start',
  '@media (max-width:900px)': { gridTemplateColumns: 'minmax(0,1fr)' },
})
const USUAL_FRAME_S = 1 / 25
const LOOKED_AT = 24

type Still = { lane: string; kind: string; image: string }

/** Marks set in a recording, frame by frame; the file itself never leaves this browser. */
export function RecordingPage() {
  const { lists, kinds } = useMarkLists()
  const hand = useHandIn()
  const navigate = useNavigate()
  const video = useRef<HTMLVideoElement>(null)
  const [person, setPerson] = useKept('person', '')
  const [title, setTitle] = useState('')
  const [address, setAddress] = useState<string | null>(null)
  const [at, setAt] = useState(0)
  const shown = useRef(0)
  const [frame, setFrame] = useState<number | null>(null)
  const [listName, setListName] = useState('To the desktop')
  const [race, setRace] = useState<Race>(emptyRace([]))
  const [stills, setStills] = useState<readonly Still[]>([])
  const [stretches, setStretches] = useState<readonly Stretch[]>([])
  const [spedFrom, setSpedFrom] = useState<number | null>(null)
  const [typed, setTyped] = useState('')
  const list = lists.find((one) => one.name === listName) ?? lists[0]
  const current: Race = race.begunAt === null ? { ...race, kinds: list?.kinds ?? [] } : race
  const step = frame ?? USUAL_FRAME_S

  useEffect(() => () => void (address && URL.revokeObjectURL(address)), [address])
  useEffect(() => {
    document.title = 'From a recording · Hare Mile'
  }, [])

  /** The time of each frame as it is shown; the first ones tell how far apart they are. */
  const follow = (one: HTMLVideoElement) => {
    const times: number[] = []
    let isLooking = true
    const seen: VideoFrameRequestCallback = (_, { mediaTime }) => {
      shown.current = mediaTime
      setAt(mediaTime)
      if (isLooking) {
        times.push(mediaTime)
        if (times.length >= LOOKED_AT || one.ended) {
          isLooking = false
          one.pause()
          const found = frameInterval(times)
          one.currentTime = (found ?? USUAL_FRAME_S) / 2
          setFrame(found)
        }
      }
      one.requestVideoFrameCallback(seen)
    }
    one.requestVideoFrameCallback(seen)
    one.muted = true
    void one.play()
  }
  /** Where the browser told of no new frame after a jump, the place itself tells which one is shown. */
  const settle = (place: number) => {
    if (Math.abs(place - shown.current) < step) return
    shown.current = Math.floor(place / step + 1e-3) * step
    setAt(shown.current)
  }
  const open = (file: File | undefined) => {
    if (!file) return
    setAddress(URL.createObjectURL(file))
    setFrame(null)
  }
  /** On or back from the place that was asked for last: always the middle of a frame, which is surely within it. */
  const go = (by: number) => {
    const one = video.current
    if (!one) return
    one.pause()
    one.currentTime = Math.min(Math.max(one.currentTime + by, step / 2), one.duration || Infinity)
  }
  const mark = (lane: Lane, seconds = shown.current) => {
    const kind = nextKind(current, lane)
    if (kind === null) return
    setRace(pressed(current, [lane.id], seconds * 1000, 0))
    if (video.current && seconds === shown.current)
      setStills([...stills, { lane: lane.id, kind, image: still(video.current) }])
  }
  const undo = () => {
    const before = takenBack(current)
    setRace(before)
    setStills(
      stills.filter((one) =>
        before.lanes.some(
          (lane) => lane.id === one.lane && lane.marks.some((each) => each.kind === one.kind),
        ),
      ),
    )
  }
  const sped = () => {
    if (spedFrom === null) setSpedFrom(at)
    else {
      setStretches([...stretches, [Math.min(spedFrom, at), Math.max(spedFrom, at)]])
      setSpedFrom(null)
    }
  }
  useShortcuts([
    { key: 'ArrowRight', shown: '→', says: 'One frame on', run: () => go(step) },
    { key: 'ArrowLeft', shown: '←', says: 'One frame back', run: () => go(-step) },
    { key: 'ArrowUp', shown: '↑', says: 'One second on', run: () => go(1) },
    { key: 'ArrowDown', shown: '↓', says: 'One second back', run: () => go(-1) },
    { key: 'Backspace', shown: '⌫', says: 'Take the last mark back', run: undo },
    {
      key: ' ',
      shown: 'Space',
      says: 'Play or pause',
      run: () => void (video.current?.paused ? video.current.play() : video.current?.pause()),
    },
    ...current.lanes.slice(0, 9).map((lane, place) => ({
      key: String(place + 1),
      says: `Mark ${lane.system}`,
      run: () => mark(lane),
    })),
  ])
  const spoilt = current.lanes.filter(
    (lane) =>
      lane.marks.length > 1 && isTouched(lane.marks[0]!.at / 1000, lane.marks.at(-1)!.at / 1000, stretches),
  )
  const ready = isAllOver(current) && person.trim() !== '' && !spoilt.length
  const submit = () =>
    hand.mutate(
      {
        study: null,
        title: title.trim() || 'From a recording',
        results: current.lanes
          .filter((lane) => lane.voided === null)
          .map((lane) =>
            resultOf({
              id: lane.id,
              system: lane.system,
              machine: lane.machine,
              at: new Date().toISOString(),
              person: person.trim(),
              method: 'recording',
              procedure: current.kinds[0] === 'begin' ? 'install' : 'boot',
              frame_s: step,
              marks: handedMarks(lane),
              photographs: stills
                .filter((one) => one.lane === lane.id)
                .map((one) => ({ name: kinds.get(one.kind)?.label ?? one.kind, image: one.image })),
            }),
          ),
      },
      { onSuccess: (kept) => void navigate(`/studies/${kept.study}/findings`) },
    )
  const byText = (event: FormEvent) => {
    event.preventDefault()
    const seconds = secondsOf(typed)
    const lane = current.lanes.find((one) => nextKind(current, one) !== null)
    if (seconds === null || !lane) return
    mark(lane, seconds)
    setTyped('')
  }
  const last = Math.max(1000, ...current.lanes.map((lane) => lane.marks.at(-1)?.at ?? 0), at * 1000)
  const first = Math.min(
    ...current.lanes.flatMap((lane) => lane.marks.slice(0, 1).map((one) => one.at)),
    last,
  )
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>From a recording</h1>
          <Soft as="div">
            The file stays in this browser. <KeyHint name="←" /> <KeyHint name="→" /> a frame,{' '}
            <KeyHint name="↑" /> <KeyHint name="↓" /> a second, a lane’s digit sets its next mark.
          </Soft>
        </div>
        <Link to="/timing">Time it live instead</Link>
      </TitleBar>
      <Two>
        <Stack>
          <Sheet as="section" aria-label="The recording">
            {address ? (
              <Screen
                ref={video}
                src={address}
                playsInline
                aria-label="The recording"
                onLoadedMetadata={(event) => follow(event.currentTarget)}
                onSeeked={(event) => settle(event.currentTarget.currentTime)}
                onError={() => setAddress(null)}
              />
            ) : (
              <Box>
                <p>
                  Choose a video that shows the machines, or drop one here. Two side by side are two lanes.
                </p>
              </Box>
            )}
          </Sheet>
          <Actions sx={{ alignItems: 'center' }}>
            <Button component="label" variant="outlined" color="inherit">
              {address ? 'Another file' : 'Choose a file'}
              <input
                type="file"
                hidden
                accept="video/*"
                aria-label="Video file"
                onChange={(event) => open(event.target.files?.[0])}
              />
            </Button>
            <b role="timer">{frameText(at)}</b>
            <SoftSmall>
              {frame
                ? `frames ${(frame * 1000).toFixed(1)} ms apart: a time is good to half of that on each side`
                : address
                  ? 'looking how far apart its frames are …'
                  : ''}
            </SoftSmall>
            {address && (
              <LinkButton onClick={sped}>
                {spedFrom === null ? 'A sped-up stretch begins here' : 'It ends here'}
              </LinkButton>
            )}
          </Actions>
          {stretches.map(([from, to]) => (
            <SoftSmall key={from}>
              sped up from {frameText(from)} to {frameText(to)}: no time goes through it{' '}
              <LinkButton onClick={() => setStretches(stretches.filter(([begin]) => begin !== from))}>
                take it out
              </LinkButton>
            </SoftSmall>
          ))}
          {current.lanes.length > 0 && (
            <Sheet as="section" aria-label="Lanes">
              {current.lanes.map((lane, place) => (
                <LaneRow
                  key={lane.id}
                  race={current}
                  lane={lane}
                  digit={place + 1}
                  kinds={kinds}
                  now={at * 1000}
                  whole={Math.max(last - first, 1000) * 1.05}
                  onPress={() => mark(lane)}
                  onVoid={() => setRace(changed(current, lane.id, { voided: 'left out' }))}
                  onFail={null}
                  onRemove={() =>
                    setRace({ ...current, lanes: current.lanes.filter((one) => one.id !== lane.id) })
                  }
                />
              ))}
            </Sheet>
          )}
          {spoilt.length > 0 && (
            <Alert severity="warning">
              {spoilt.map((one) => one.system).join(', ')}: its time goes through a sped-up stretch, and is
              not handed in.
            </Alert>
          )}
          {hand.error && <Alert severity="error">{hand.error.message}</Alert>}
          <Actions>
            <Button variant="contained" disabled={!ready || hand.isPending} onClick={submit}>
              Hand it in
            </Button>
            {current.lanes.some((lane) => lane.marks.length > 0) && (
              <Button variant="outlined" color="inherit" onClick={undo}>
                Take back
                <KeyHint name="⌫" />
              </Button>
            )}
          </Actions>
        </Stack>
        <Stack>
          <Box as="section" aria-label="What is marked">
            <h2>What is marked</h2>
            <Stack sx={{ mt: 1 }}>
              <label>
                <SoftSmall>Marks </SoftSmall>
                <Select
                  value={list?.name ?? ''}
                  disabled={race.begunAt !== null}
                  onChange={(event) => setListName(event.target.value)}
                >
                  {lists.map((one) => (
                    <option key={one.name}>{one.name}</option>
                  ))}
                </Select>
              </label>
              <TextLine label="Who marks" value={person} onChange={setPerson} required most={60} />
              <form onSubmit={byText}>
                <Actions>
                  <TextField
                    size="small"
                    label="Or type the next mark"
                    placeholder="mm:ss.f"
                    value={typed}
                    error={typed !== '' && secondsOf(typed) === null}
                    onChange={(event) => setTyped(event.target.value)}
                  />
                  <Button type="submit" color="inherit" disabled={secondsOf(typed) === null}>
                    Set it
                  </Button>
                </Actions>
              </form>
            </Stack>
          </Box>
          <OwnLane
            title={title}
            onTitle={setTitle}
            isTitled
            says="One for each machine that the recording shows."
            onAdd={(system, machine) =>
              setRace({
                ...current,
                lanes: [
                  ...current.lanes,
                  {
                    id: freshId(),
                    system,
                    machine,
                    laneNo: current.lanes.length + 1,
                    asked: null,
                    marks: [],
                    voided: null,
                    isHandedIn: false,
                  },
                ],
              })
            }
            onFresh={null}
          />
        </Stack>
      </Two>
    </Main>
  )
}
