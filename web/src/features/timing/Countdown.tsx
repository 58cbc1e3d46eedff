import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import { useEffect, useState } from 'react'

import { Actions, Box, Soft } from '@/ui/kit'

import { useKept } from '@/ui/kept'

const AHEAD_S = 45
const two = (value: number) => String(value).padStart(2, '0')
const clockOf = (at: Date) => `${two(at.getHours())}:${two(at.getMinutes())}:${two(at.getSeconds())}`

/** The line that restarts a machine at that time of day, by its own clock. */
const lineFor = (at: Date) => `sleep $(($(date -d ${clockOf(at)} +%s)-$(date +%s))); systemctl reboot`

function beep(sound: AudioContext, high: boolean) {
  const tone = sound.createOscillator()
  const loud = sound.createGain()
  tone.frequency.value = high ? 1320 : 880
  loud.gain.value = 0.2
  tone.connect(loud).connect(sound.destination)
  tone.start()
  tone.stop(sound.currentTime + (high ? 0.4 : 0.12))
}

/** All machines restart at one time of day; the race begins by itself then. */
export function Countdown({ isReady, onStart }: { isReady: boolean; onStart: (stamp: number) => void }) {
  const [at, setAt] = useState<number | null>(null)
  const [left, setLeft] = useState(0)
  const [hasSound, setHasSound] = useKept('sound', true)
  useEffect(() => {
    if (at === null) return
    const sound = hasSound ? new AudioContext() : null
    let before = Infinity
    const timer = setInterval(() => {
      const rest = (at - Date.now()) / 1000
      setLeft(Math.max(rest, 0))
      if (rest <= 0) {
        setAt(null)
        if (sound) beep(sound, true)
        onStart(performance.now() + rest * 1000)
      } else if (rest < 3.05 && Math.ceil(rest) < before && sound) beep(sound, false)
      before = Math.ceil(rest)
    }, 20)
    return () => {
      clearInterval(timer)
      if (sound) setTimeout(() => void sound.close(), 600)
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps -- it begins with what stands there when it was set
  }, [at])
  const begin = () => setAt(Math.ceil(Date.now() / 1000 + AHEAD_S) * 1000)
  return (
    <Box as="section" aria-label="A common start">
      <h2>A common start</h2>
      {at === null ? (
        <Soft as="p" sx={{ my: 0.75 }}>
          All machines restart at one time of day: type the line on each, then keep your hands free. Their
          clocks have to agree.
        </Soft>
      ) : (
        <>
          <p role="status">
            Restart at <b>{clockOf(new Date(at))}</b>, in {left.toFixed(0)} s. On each machine:
          </p>
          <code>{lineFor(new Date(at))}</code>
        </>
      )}
      <Actions sx={{ mt: 1, alignItems: 'center' }}>
        {at === null ? (
          <Button
            variant="outlined"
            color="inherit"
            sx={{ minHeight: 44 }}
            disabled={!isReady}
            onClick={begin}
          >
            In {AHEAD_S} seconds
          </Button>
        ) : (
          <Button variant="outlined" color="inherit" sx={{ minHeight: 44 }} onClick={() => setAt(null)}>
            Call it off
          </Button>
        )}
        <FormControlLabel
          control={<Checkbox checked={hasSound} onChange={(event) => setHasSound(event.target.checked)} />}
          label="with a sound"
        />
      </Actions>
    </Box>
  )
}
