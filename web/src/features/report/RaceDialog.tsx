import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { styled, useColorScheme } from '@mui/material/styles'
import { useQueries } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'

import { captureQuery, columnsQuery } from '@/api/queries'
import type { Report } from '@/api/report'
import { Chooser } from '@/ui/Chooser'
import { fileName, handOut } from '@/ui/keep'
import { Soft } from '@/ui/kit'
import { Failed } from '@/ui/States'

import { HOLD_S, runners, shotsOf, speedOf, withMarks } from './race'
import { drawRace, type Looks } from './raceFrame'
import { useDrawn } from './useDrawn'
import { FRAME } from './videoFrame'

type Props = { studyId: string; report: Report; onClose: () => void }

const PARTS = ['boot.firmware', 'boot.loader', 'boot.kernel', 'boot.initrd', 'boot.userspace']
/** The one that is written in real time on the slowest machine comes first. */
const KINDS = ['video/webm;codecs=vp8', 'video/webm;codecs=vp9', 'video/webm']
const PACES = [1, 2, 4, 8]
const RATE = 30
const SCREEN = 'screen'

const Screen = styled('canvas')({ width: '100%', display: 'block', border: '1px solid var(--hm-rule)' })

/** The runs nearest the medians side by side with a clock; as a video file where it is asked for. */
export function RaceDialog({ studyId, report, onClose }: Props) {
  const { colorScheme } = useColorScheme()
  const timed = report.content.sections.flatMap(({ figure }) =>
    figure?.kind === 'finding' && figure.row.unit === 's' ? [figure] : [],
  )
  const { row, columns } = timed[0]!
  const parts = useQueries({
    queries: (row.metric === 'boot.total' ? PARTS : []).map((metric) => columnsQuery(studyId, metric)),
  })
  const canvas = useRef<HTMLCanvasElement>(null)
  const [playing, setPlaying] = useState<'look' | 'film' | null>(null)
  const [said, setSaid] = useState('')
  const [error, setError] = useState<Error | null>(null)
  const nearest = runners(row, columns)
  const captures = useQueries({
    queries: (row.method === SCREEN ? nearest : []).map((one) => captureQuery(one.runId)),
  })
  const all = withMarks(
    nearest.map((one, i) => ({ ...one, shots: shotsOf(captures[i]?.data?.evidence ?? []) })),
    parts.flatMap((one) => (one.data ? [one.data] : [])),
  )
  const drawn = useDrawn(all.flatMap((one) => one.shots.map((shot) => shot.png)))
  const isReady =
    drawn.isComplete && [...captures, ...parts].every((one) => one.data !== undefined || one.error !== null)
  const slowest = speedOf(all)
  const [pace, setPace] = useState<number | null>(null)
  const speed = pace ?? slowest
  const names = new Map(report.content.lanes.map((one) => [one.lane_no, one]))
  const race = { title: row.label, machine: row.machine, runners: all, names, speed, drawn: drawn.pictures }
  const latest = useRef(race)
  useEffect(() => {
    latest.current = race
    if (!playing && canvas.current && isReady) drawRace(canvas.current, race, 0, looksOf(canvas.current))
  })
  useEffect(() => {
    const screen = canvas.current
    if (!playing || !screen) return
    const { runners: running, speed: pace } = latest.current
    const end = Math.max(...running.map((one) => one.total)) / pace + HOLD_S
    const looks = looksOf(screen)
    let film: MediaRecorder | null = null
    if (playing === 'film') {
      const kind = KINDS.find((one) => MediaRecorder.isTypeSupported(one))
      if (!kind) {
        setTimeout(() => {
          setError(new Error('this browser writes no video; another one may'))
          setPlaying(null)
        })
        return
      }
      const pieces: Blob[] = []
      film = new MediaRecorder(screen.captureStream(RATE), {
        mimeType: kind,
        videoBitsPerSecond: 6_000_000,
      })
      film.ondataavailable = (event) => pieces.push(event.data)
      film.onstop = () => {
        if (!isOver) return
        handOut(`${fileName('race', row.label, row.machine)}.webm`, new Blob(pieces, { type: 'video/webm' }))
        setSaid('video saved')
      }
      film.start(1000)
    }
    const began = performance.now()
    let isOver = false
    let next = 0
    const step = (now: number) => {
      const at = Math.max(0, (now - began) / 1000)
      drawRace(screen, latest.current, at * pace, looks)
      if (at < end) next = requestAnimationFrame(step)
      else {
        isOver = true
        film?.stop()
        setPlaying(null)
      }
    }
    next = requestAnimationFrame(step)
    return () => {
      cancelAnimationFrame(next)
      if (film && film.state !== 'inactive') film.stop()
    }
  }, [playing, row])
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="race-title">
      <DialogTitle id="race-title" variant="h2">
        The race, replayed
      </DialogTitle>
      <DialogContent>
        <Screen
          ref={canvas}
          width={FRAME.width}
          height={FRAME.height}
          data-scheme={colorScheme}
          role="img"
          aria-label={`${row.label}: the run nearest each median, side by side`}
        />
        {playing === null && (
          <Chooser
            label="pace"
            chosen={String(speed)}
            onChoose={(chosen) => setPace(Number(chosen))}
            options={[...new Set([slowest, ...PACES.filter((one) => one > slowest)])].map((one) => ({
              id: String(one),
              label: one === 1 ? 'as it was' : `${one} times as fast`,
            }))}
          />
        )}
        <Soft as="p">
          Of each contender the run nearest its median,{' '}
          {drawn.pictures.size
            ? 'with the pictures of its screen that were kept, and drawn from its marks'
            : 'drawn from its marks'}
          : {speed === 1 ? 'as fast as it was' : `${speed} times as fast as it was`}.
        </Soft>
        <span role="status">{playing === 'film' ? 'filming; keep this open until it ends …' : said}</span>
        {error && <Failed error={error} />}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Close
        </Button>
        <Button
          variant="outlined"
          color="inherit"
          disabled={!isReady || playing !== null}
          onClick={() => setPlaying('look')}
        >
          Play
        </Button>
        <Button
          variant="contained"
          disabled={!isReady || playing !== null}
          onClick={() => setPlaying('film')}
        >
          Save as a video
        </Button>
      </DialogActions>
    </Dialog>
  )
}

function looksOf(screen: HTMLElement): Looks {
  const page = getComputedStyle(screen)
  return { colour: (name) => page.getPropertyValue(name.replace(/^var\((.*)\)$/, '$1')).trim() }
}
