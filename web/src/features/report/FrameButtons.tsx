import { styled } from '@mui/material/styles'
import { useEffect, useRef, useState } from 'react'

import { embeddedFonts } from '@/api/fonts'
import type { Report, ReportSection } from '@/api/report'
import { ReportFigure } from '@/charts/ReportFigure'
import { composedPicture, fileName, handOut } from '@/ui/keep'
import { Plain } from '@/ui/kit'

import { asVideoFrame } from './videoFrame'

type Scheme = 'light' | 'dark'
type Props = { section: ReportSection; lanes: Report['content']['lanes'] }

/** Half a frame's width: drawn on it, letters are twice as large. */
const WIDTH = 940

const Aside = styled('div')({
  position: 'fixed',
  left: -3000,
  top: 0,
  width: WIDTH,
  background: 'var(--hm-sheet)',
  color: 'var(--hm-ink)',
})

/** Hands out the picture of a part as a frame of a video, 1920 × 1080. */
export function FrameButtons({ section, lanes }: Props) {
  const [scheme, setScheme] = useState<Scheme | null>(null)
  const [said, setSaid] = useState('')
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (!scheme || !box.current) return
    const drawn = box.current
    void embeddedFonts()
      .then((fonts) =>
        asVideoFrame(composedPicture(drawn, [section.headline || section.title], fonts), drawn),
      )
      .then(
        (frame) => {
          handOut(`${fileName(section.title, scheme)}.png`, frame)
          setSaid('picture saved')
        },
        (error: Error) => setSaid(error.message),
      )
      .finally(() => setScheme(null))
  }, [scheme, section])
  return (
    <>
      <span>Video frame, 1920 × 1080:</span>
      {(['light', 'dark'] as const).map((one) => (
        <Plain
          key={one}
          disabled={scheme !== null}
          aria-label={`Video frame of ${section.title}, ${one}`}
          onClick={() => setScheme(one)}
        >
          {one}
        </Plain>
      ))}
      <span role="status">{said}</span>
      {scheme && (
        <Aside ref={box} data-scheme={scheme} aria-hidden>
          <ReportFigure figure={section.figure!} lanes={lanes} width={WIDTH} />
        </Aside>
      )}
    </>
  )
}
